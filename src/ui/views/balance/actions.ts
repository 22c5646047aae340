import { toast } from 'sonner';
import { freeName, type Mood, type Moods, MoodsError, parseMoodFile, taken } from '@/core/moods';
import { saveFile } from '../../parts/save-file';
import { useDesk } from '../../state/desk-store';
import { useMoods } from '../../state/moods-store';

export const newMoodId = (): string => Math.random().toString(36).slice(2, 14);

/** Takes a mood, or the picture as rendered. */
export function takeMood(moods: Moods, id: string | null): void {
  const mood = moods.list.find((m) => m.id === id) ?? null;
  useMoods.getState().replace(mood ? `take ${mood.name}` : 'as rendered', taken(moods, mood));
}

/** Hands a mood over as JSON. */
export function saveMood({ name, mix, keys }: Mood): void {
  const text = `${JSON.stringify({ schema: 1, name, mix, keys }, null, 2)}\n`;
  saveFile(new Blob([text], { type: 'application/json' }), `${name.replace(/[^A-Za-z0-9_-]+/g, '-')}.mood.json`);
}

/** Brings moods of files in, under names that are free; a wrong one is told by file and fault. */
export async function takeMoodFiles(files: File[]): Promise<void> {
  for (const file of files) {
    try {
      const { name, mix, keys } = parseMoodFile(JSON.parse(await file.text()));
      const { moods, replace } = useMoods.getState();
      if (!moods) return;
      const mood: Mood = { id: newMoodId(), name: freeName(moods, name), mix, keys, earlier: [] };
      const fault = replace(`bring ${mood.name} in`, {
        ...moods,
        list: [...moods.list, mood],
        now: { mix, keys, mood: mood.id },
      });
      if (fault) toast.error(`${file.name}: ${fault}`);
    } catch (error) {
      const why = error instanceof MoodsError ? error.message : 'it is no JSON';
      toast.error(`${file.name}: ${why}`);
    }
  }
}

/** Hears one light group alone: the next or the one before of what is told, after the last all of them again. */
export function stepAlone(groups: readonly string[], by: 1 | -1): void {
  const { alone, set } = useDesk.getState();
  const at = alone.length === 1 ? groups.indexOf(alone[0]) : by === 1 ? -1 : groups.length;
  const next = groups[at + by];
  set({ alone: next === undefined ? [] : [next] });
}
