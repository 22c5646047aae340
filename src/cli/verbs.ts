import { UsageError } from './args';
import type { Assets } from './assets';
import { balance } from './balance';
import { comp } from './comp';
import { compare } from './compare';
import { deliver } from './deliver';
import { denoise } from './denoise';
import { exportScene } from './export';
import { info, measure, tallyVerb } from './inspect';
import { mask } from './mask';
import { render } from './render';
import { split } from './split';
import { verify } from './verify';

const HELP = `lantern: renders, inspects and checks films.

  lantern render <shot | file.glb> --out file.exr [--recipe Sketch|Check|Final|file.json] [--set key=value …]
                 [--env file.hdr] [--camera NAME] [--size WxH] [--region x,y,w,h] [--threads N] [--seed N]
                 [--frame N] [--bands N]
                 [--layers NAME …] [--depth auto|half|float] [--denoise PERCENT] [--outputs file.json]
                 [--json file.json|-]
  lantern denoise film.exr --out file.exr [--before film.exr] [--after film.exr] [--strength PERCENT] [--threads N]
                 [--json -]
  lantern split film.exr --outputs file.json --dir folder [--shot NAME] [--trial N] [--json -]
  lantern mask film.exr [--pick NAME … --out mask.exr|png] [--json -]
  lantern balance film.exr --mood mood.json --out file.exr [--json -]
  lantern comp stack.json --out file.exr|png|tif|cube [--frames 1-48] [--most WHITES] [--json -]
  lantern run <shot | file.glb | shot.tar> --outputs file.json --out folder [--frames 1-10,15,20-48x2] [--missing]
                 [--overwrite] [--comp exr|png|tiff] [--recipe …] [--set key=value …] [--camera NAME] [--size WxH] [--order ends|rising] [--name SHOT]
                 [--threads N] [--piece] [--job job.json] [--json -]
  lantern verify folder [--json -]
  lantern export <shot | file.glb | scene.json> --out file.glb|scene.json
  lantern info file.exr [--json -]
  lantern tally file.exr [--parts group|class|bounce] [--json -]
  lantern measure file.exr [--mood mood.json] [--json -]
  lantern compare reference.exr other.exr [--json -]
  lantern worker                takes trials from the queue in DATABASE_URL
  lantern queue                 lists the queue
  lantern runs                  lists the runs
  lantern report SHOT 7 [6] | SHOT ladder 7 | SHOT run 5
                                a trial, it against another, its ladder, or a run as one HTML file; - at the end writes it here

Exit codes: 0 done, 1 a tally that does not add up, a file that is not as it was delivered, 2 bad arguments or input, 3 stopped.
`;

/** Does what the arguments say. Returns the exit code; throws `UsageError` on what is wrong with them or with the input. */
export async function run(argv: string[], assets: Assets): Promise<number> {
  const [verb, ...rest] = argv;
  if (verb === 'render') return render(rest, assets);
  if (verb === 'export') return exportScene(rest);
  if (verb === 'info') return info(rest);
  if (verb === 'tally') return tallyVerb(rest);
  if (verb === 'measure') return measure(rest);
  if (verb === 'compare') return compare(rest);
  if (verb === 'split') return split(rest);
  if (verb === 'mask') return mask(rest);
  if (verb === 'balance') return balance(rest);
  if (verb === 'comp') return comp(rest);
  if (verb === 'denoise') return denoise(rest, assets);
  if (verb === 'run') return deliver(rest, assets);
  if (verb === 'verify') return verify(rest);
  if (verb === undefined || verb === '--help' || verb === 'help') {
    process.stdout.write(HELP);
    return verb === undefined ? 2 : 0;
  }
  throw new UsageError(
    `${verb}: no such verb; there are render, run, verify, denoise, split, mask, balance, comp, export, info, tally, measure, compare, worker, queue, runs`,
  );
}
