import { framesText } from './frames';

/** A path among the arguments: what others' queues may have to put another one for, on another machine. */
export interface JobPath {
  /** The parameter that stands for it. */
  name: string;
  kind: 'file' | 'folder';
  flow: 'IN' | 'OUT';
  description: string;
  /** What it is where nothing else is said: relative to the template, as the standard asks; null where it lies elsewhere. */
  relative: string | null;
}

export interface Job {
  name: string;
  program: string;
  frames: readonly number[];
  /** What is called for a text of frames, which may be one that the queue fills in. */
  frameArguments: (frames: string) => string[];
  /** What is called once all frames are there: it checks them, and makes what is not. */
  lastArguments: string[];
  paths: readonly JobPath[];
}

const MOST_NAME = 128;

/**
 * What other queues run, as a template of Open Job Description 2023-09: a task a frame, each a process of its own, then one that
 * gathers what they wrote.
 */
export const jobTemplate = ({ name, program, frames, frameArguments, lastArguments, paths }: Job) => ({
  specificationVersion: 'jobtemplate-2023-09',
  name: name.slice(0, MOST_NAME),
  parameterDefinitions: [
    { name: 'Program', type: 'STRING', default: program, description: 'What is called: lantern, or where it lies.' },
    ...paths.map((p) => ({
      name: p.name,
      type: 'PATH',
      objectType: p.kind === 'file' ? 'FILE' : 'DIRECTORY',
      dataFlow: p.flow,
      description: p.description,
      ...(p.relative === null ? {} : { default: p.relative }),
    })),
  ],
  steps: [
    {
      name: 'Frames',
      parameterSpace: {
        taskParameterDefinitions: [{ name: 'Frame', type: 'INT', range: framesText(frames).replaceAll('x', ':') }],
      },
      script: { actions: { onRun: { command: '{{Param.Program}}', args: frameArguments('{{Task.Param.Frame}}') } } },
    },
    {
      name: 'Manifest',
      dependencies: [{ dependsOn: 'Frames' }],
      script: { actions: { onRun: { command: '{{Param.Program}}', args: lastArguments } } },
    },
  ],
});
