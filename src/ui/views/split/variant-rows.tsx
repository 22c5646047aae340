import { toast } from 'sonner';
import { isOfVariant, type Output, variedRecipe } from '@/core/outputs';
import { settingAt } from '@/core/recipe';
import { NumberField } from '../../fields/number-field';
import { Word } from '../../parts/controls';
import { useRecipe } from '../../state/recipe-store';
import { useDocument } from '../../state/scene-now';
import { choose, chosenFor, type Role, useRole } from '../../state/variants';
import { LightsRow } from './lights-row';
import { PickEditor } from './pick-editor';
import { withoutPick, withPicks } from './picks';
import { chooseFor, ownPicture, picksOf, ROLE_WORDS, vary } from './variant';
import { Choice } from './variant-choice';

const tell = (fault: string | null) => fault && toast.error(fault);

const ROLES: Record<Role, { label: string; tip: string; all: string | null; none: string | null }> = {
  receivers: { label: 'rendered', tip: 'What the camera sees. All else is unseen, or a hole.', all: 'all', none: null },
  casters: {
    label: 'casting',
    tip: 'What throws shadows, reflects and glows without being seen. What is neither rendered nor casting is not there.',
    all: 'all else',
    none: 'nothing',
  },
  catchers: {
    label: 'catching',
    tip: 'What is not seen either, but whose shadow of others becomes the layer shadow.',
    all: null,
    none: 'nothing',
  },
};

/** The first of several names, and how many more there are. */
const fewNames = ([first, ...more]: readonly string[]) =>
  more.length > 0 ? `${first} and ${more.length} more` : first;

/** Who is in a role: all, nothing, or chosen things, which are clicked in the picture or named. */
function RoleRow({ output, of: role }: { output: Output; of: Role }) {
  const choosing = useRole() === role;
  const { label, tip, all, none } = ROLES[role];
  const chosen = chosenFor(output.variant, role);
  const picks = picksOf(output, role);
  const isNone = none !== null && (chosen ? chosen.length === 0 : all === null) && !choosing;
  const set = (next: typeof chosen, words: string) => tell(chooseFor(output, role, next, words));
  return (
    <>
      <Choice label={label} tip={tip} differs={chosen !== null}>
        {all !== null && (
          <Word
            on={chosen === null && !choosing}
            onClick={() => {
              choose(null);
              set(null, `${all} ${ROLE_WORDS[role]}`);
            }}
          >
            {all}
          </Word>
        )}
        {none !== null && (
          <Word
            on={isNone}
            onClick={() => {
              choose(null);
              set([], `nothing ${ROLE_WORDS[role]}`);
            }}
          >
            {none}
          </Word>
        )}
        <Word on={!isNone && (chosen !== null || choosing)} onClick={() => choose(choosing ? null : role)}>
          {picks.length > 0 ? fewNames(picks.map((p) => p.name)) : 'choose'}
        </Word>
        {choosing && (
          <Word className="underline" onClick={() => choose(null)}>
            done
          </Word>
        )}
        {role === 'receivers' && chosen?.length === 0 && !choosing && (
          <span className="text-[11.5px]" role="alert">
            nothing yet: the picture is empty
          </span>
        )}
      </Choice>
      {choosing && (
        <div className="mb-1 pl-[74px]">
          <PickEditor
            label={`${ROLE_WORDS[role]}: add`}
            picks={picks}
            onEnd={() => choose(null)}
            onIn={(p) => set(withPicks(picks, [p]), `${p.name} ${ROLE_WORDS[role]}`)}
            onOut={(p) => set(withoutPick(picks, p), `${p.name} not ${ROLE_WORDS[role]}`)}
          />
          <p className="mt-0.5 text-[11px] text-dim">
            outlined: rendered · striped: casting · crossed: catching · dark: not there
          </p>
        </div>
      )}
    </>
  );
}

/** What the picture of an output differs in from the shot's. All that is not said here follows the shot. */
export function VariantRows({ output }: { output: Output }) {
  const recipe = useRecipe((s) => s.recipe)!;
  const hasFog = useDocument().fogs.length > 0;
  const { variant } = output;
  if (!variant)
    return (
      <div className="border-b border-line px-3.5 py-1">
        <Choice
          label="picture"
          tip="Outputs of the shot’s picture come from one film. An output with a picture of its own has other things, lights or samples in it; all else follows the shot."
        >
          <Word on>of the shot</Word>
          <Word onClick={() => tell(ownPicture(output, true))}>of its own</Word>
        </Choice>
      </div>
    );
  const made = variedRecipe(recipe, variant);
  const varies = (path: string) => Object.hasOwn(variant, path);
  const choice = (
    path: string,
    label: string,
    tip: string,
    options: [words: string, value: string | boolean | number][],
    beside = false,
  ) => (
    <Choice label={label} tip={tip} differs={varies(path)} beside={beside}>
      {options.map(([words, value]) => (
        <Word
          key={words}
          on={settingAt(made, path) === value}
          onClick={() => {
            // What is as in the shot goes on following it.
            const isOwn = value !== settingAt(recipe, path);
            tell(vary(output, `${label} ${words}`, { [path]: isOwn ? value : undefined }));
          }}
        >
          {words}
        </Word>
      ))}
    </Choice>
  );
  const samples = (cameraMax: number | undefined) => {
    try {
      variedRecipe(recipe, { ...variant, 'sampling.cameraMax': cameraMax ?? recipe.sampling.cameraMax });
    } catch (error) {
      return (error as Error).message;
    }
    return vary(output, 'samples', {
      'sampling.cameraMin': cameraMax === undefined ? undefined : Math.min(made.sampling.cameraMin, cameraMax),
      'sampling.cameraMax': cameraMax,
    });
  };
  return (
    <div className="max-h-[44%] shrink-0 overflow-y-auto border-b border-line px-3.5 py-1" data-testid="variant">
      <Choice
        label="picture"
        tip="A picture of its own is rendered as a trial of its own. It keeps only what it differs in: what is edited in the shot is edited in it."
      >
        <Word
          onClick={() => {
            choose(null);
            tell(ownPicture(output, false));
          }}
        >
          of the shot
        </Word>
        <Word on>of its own</Word>
        {isOfVariant(output, null) && <span className="text-[11.5px] text-soft">nothing differs yet</span>}
      </Choice>
      <RoleRow output={output} of="receivers" />
      {made.scope.receivers !== null &&
        choice('scope.others', 'elsewhere', 'What the camera meets where something stands that is not rendered.', [
          ['what is behind', 'unseen'],
          ['a hole', 'holdout'],
        ])}
      <RoleRow output={output} of="casters" />
      <RoleRow output={output} of="catchers" />
      <LightsRow output={output} />
      {hasFog &&
        choice(
          'film.only',
          'fog',
          'Fog alone: surfaces are black before the camera. Surfaces alone: as they are seen through the fog. Both add up to all.',
          [
            ['and surfaces', 'all'],
            ['fog alone', 'fog'],
            ['surfaces alone', 'surfaces'],
          ],
        )}
      <div className="flex">
        {choice('scope.sky', 'sky', 'Whether the camera sees the sky. It shines either way.', [
          ['seen', true],
          ['unseen', false],
        ])}
        {choice(
          'clay.on',
          'surfaces',
          'Surfaces as they are, or in grey clay.',
          [
            ['as they are', false],
            ['clay', true],
          ],
          true,
        )}
      </div>
      <div className="flex">
        {choice(
          'rayDepth.diffuse',
          'bounced',
          'Light that comes by way of matt surfaces. Without it, matt surfaces show what reaches them directly.',
          [
            ['kept', recipe.rayDepth.diffuse],
            ['none', 0],
          ],
        )}
        <Choice
          label="samples"
          tip="Camera samples a pixel at most. Openness and plain shadows are smooth with few."
          differs={varies('sampling.cameraMax')}
          beside
        >
          <NumberField
            label="samples of this picture"
            value={made.sampling.cameraMax}
            onChange={(v) => (v === null || !Number.isInteger(v) ? 'a whole number' : samples(v))}
          />
          {varies('sampling.cameraMax') && (
            <Word className="text-[11px] underline" onClick={() => tell(samples(undefined))}>
              as the shot
            </Word>
          )}
        </Choice>
      </div>
    </div>
  );
}
