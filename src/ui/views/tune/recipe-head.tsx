'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { fitRecipe } from '@/core/film';
import {
  changeText,
  differences,
  isPreset,
  PRESETS,
  type PresetName,
  parseRecipe,
  type Recipe,
  RecipeError,
} from '@/core/recipe';
import type { SceneDocument } from '@/core/scene';
import { count } from '@/core/words';
import { chooseFiles } from '../../import/choose';
import { Tip } from '../../parts/controls';
import { Menu, MenuItem, MenuLine } from '../../parts/menu';
import { NameDialog } from '../../parts/name-dialog';
import { saveFile } from '../../parts/save-file';
import { UndoButtons } from '../../parts/undo-buttons';
import { api } from '../../state/api';
import { useGoverning } from '../../state/figures';
import { useRecipe } from '../../state/recipe-store';
import { useDocument } from '../../state/scene-now';
import { tell } from '../../state/tell';

/** Hands a recipe over as a JSON file. */
function handOver(recipe: Recipe): void {
  const bytes = new Blob([`${JSON.stringify(recipe, null, 2)}\n`], { type: 'application/json' });
  saveFile(bytes, `${recipe.name.replace(/[^\w-]+/g, '-') || 'recipe'}.json`);
}

/** Makes a recipe the draft, without what does not fit the shot, which is told. */
function take(recipe: Recipe, document: SceneDocument): void {
  const { recipe: fitted, misfits } = fitRecipe(recipe, document);
  useRecipe.getState().replace(fitted);
  if (misfits.length > 0)
    toast(
      `${recipe.name}: ${misfits.length} ${misfits.length === 1 ? 'setting does' : 'settings do'} not fit this shot`,
      {
        description: misfits.join('; '),
        duration: 12000,
      },
    );
}

/** Takes a recipe from a JSON file; a fault names the file and the setting, and changes nothing. */
async function takeIn(document: SceneDocument): Promise<void> {
  const [file] = await chooseFiles('.json');
  if (!file) return;
  try {
    const recipe = parseRecipe(JSON.parse(await file.text()));
    take(recipe, document);
    toast.success(`${file.name}: ${recipe.name} taken. Undo goes back.`);
  } catch (error) {
    const words = error instanceof RecipeError ? error.message : `it is no JSON (${(error as Error).message})`;
    toast.error(`${file.name}: ${words}`);
  }
}

/** The recipe's name and what it changes against the one it comes from; others to take, and ways in and out. */
export function RecipeHead() {
  const recipe = useRecipe((s) => s.recipe)!;
  const replace = useRecipe((s) => s.replace);
  const document = useDocument();
  const [looked, setLooked] = useState<Recipe | null>(null);
  const queries = useQueryClient();
  const own = useQuery({ queryKey: ['recipes'], queryFn: api.recipes }).data?.recipes ?? [];
  const [keeping, setKeeping] = useState(false);
  const base = isPreset(recipe.name) ? PRESETS[recipe.name] : own.find((r) => r.name === recipe.name);
  const changes = base ? differences(base, recipe).filter((d) => !d.path.startsWith('region')) : [];
  const item = (r: Recipe) => (
    <MenuItem
      key={r.name}
      onFocus={() => setLooked(r)}
      onSelect={() => take({ ...r, region: recipe.region }, document)}
    >
      <span>{r.name}</span>
      <span className="num opacity-70">
        {r.sampling.cameraMin}–{r.sampling.cameraMax} at {r.size.scale} %
      </span>
    </MenuItem>
  );
  const keep = async (named: Recipe) => {
    try {
      await api.keepRecipe(named);
      replace(named);
      setKeeping(false);
      await queries.invalidateQueries({ queryKey: ['recipes'] });
    } catch (error) {
      tell(error);
    }
  };
  const drop = (name: string) =>
    api.dropRecipe(name).then(() => queries.invalidateQueries({ queryKey: ['recipes'] }), tell);
  return (
    <div className="flex h-9 items-center gap-1 border-b border-line pr-2 pl-3.5">
      {keeping && (
        <NameDialog
          title="Keep the recipe as"
          label="name of the recipe"
          action="Keep"
          initial={isPreset(recipe.name) ? '' : recipe.name}
          most={80}
          onName={(name) => void keep({ ...recipe, name })}
          onClose={() => setKeeping(false)}
        />
      )}
      <Menu
        width="min-w-52"
        trigger={
          <button
            type="button"
            data-testid="recipe-menu"
            className="flex items-center gap-1 rounded-sm px-1 py-0.5 hover:bg-raised"
          >
            <span className="max-w-36 truncate font-semibold">{recipe.name}</span>
            <span className="whitespace-nowrap text-dim">
              {changes.length > 0 ? `· ${changes.length} changed` : ''}
            </span>
            <ChevronDown size={12} />
          </button>
        }
      >
        {changes.length > 0 && <Changes changes={changes} />}
        {(Object.keys(PRESETS) as PresetName[]).map((name) => item(PRESETS[name]))}
        {own.length > 0 && <MenuLine />}
        {own.map(item)}
        {looked && <Against recipe={recipe} other={looked} />}
        <MenuLine />
        <MenuItem onSelect={() => setKeeping(true)}>Keep as</MenuItem>
        {own.some((r) => r.name === recipe.name) && (
          <MenuItem onSelect={() => void drop(recipe.name)}>Forget {recipe.name}</MenuItem>
        )}
        <MenuItem onSelect={() => handOver(recipe)}>Hand over as JSON</MenuItem>
        <MenuItem onSelect={() => void takeIn(document)}>Take from JSON</MenuItem>
      </Menu>
      <span className="flex-1" />
      <RaysAPixel samples={recipe.sampling.cameraMax} />
      <UndoButtons />
    </div>
  );
}

/** What the camera samples amount to, at the rays a sample took in A. */
function RaysAPixel({ samples }: { samples: number }) {
  const { rays } = useGoverning().figures;
  if (!rays || rays.camera === 0) return null;
  return (
    <Tip text="Rays a pixel: what this recipe's camera samples amount to, at the rays a sample measured in A.">
      <span className="num whitespace-nowrap text-dim">
        ≈ {count((rays.total / rays.camera) * samples)} rays a pixel
      </span>
    </Tip>
  );
}

/** What the recipe changes against the one it comes from. */
function Changes({ changes }: { changes: ReturnType<typeof differences> }) {
  return (
    <div className="mb-1 max-w-72 border-b border-line px-2 pb-1 text-[11.5px] text-soft">
      {changes.slice(0, MOST_LINES).map((c) => (
        <p key={c.path}>{changeText(c)}</p>
      ))}
      {changes.length > MOST_LINES && <p>and {changes.length - MOST_LINES} more</p>}
    </div>
  );
}

const MOST_LINES = 8;

/** What another recipe would change of the one at hand. */
function Against({ recipe, other }: { recipe: Recipe; other: Recipe }) {
  const changes = differences(recipe, { ...other, region: recipe.region });
  return (
    <div className="mt-1 max-w-72 border-t border-line px-2 pt-1 text-[11.5px] text-soft" data-testid="recipe-against">
      <p className="text-dim">
        {other.name} against {recipe.name}
      </p>
      {changes.length === 0 && <p>the same</p>}
      {changes.slice(0, MOST_LINES).map((c) => (
        <p key={c.path}>{changeText(c)}</p>
      ))}
      {changes.length > MOST_LINES && <p>and {changes.length - MOST_LINES} more</p>}
    </div>
  );
}
