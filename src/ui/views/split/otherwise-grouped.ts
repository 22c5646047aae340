import { useQueries } from '@tanstack/react-query';
import { useMemo } from 'react';
import { lightSources, type SceneDocument } from '@/core/scene';
import { api } from '../../state/api';
import type { ListedTrial } from '../../state/trials-store';
import { useFinished } from '../../state/trials-store';

/** Scenes that are looked into: the newest of the trials'. */
const MOST_SCENES = 8;

/** Which source is in which light group. */
function groupingOf(document: SceneDocument): string {
  const all = lightSources(document).flatMap((s) => s.members.map((m) => `${m} in ${s.group}`));
  return all.sort().join('\n');
}

/** Finished trials of the newest scenes in which sources of light are in other groups than in the scene as it is edited. */
export function useOtherwiseGrouped(document: SceneDocument): ListedTrial[] {
  const trials = useFinished();
  const scenes = [...new Set(trials.map((t) => t.revision))].slice(0, MOST_SCENES);
  const known = useQueries({
    queries: scenes.map((id) => ({
      queryKey: ['grouping', id],
      queryFn: async () => groupingOf((await api.revision(id)).revision.document),
      staleTime: Number.POSITIVE_INFINITY,
    })),
  });
  const now = useMemo(() => groupingOf(document), [document]);
  const otherScenes = scenes.filter((_, i) => known[i].data !== undefined && known[i].data !== now);
  return trials.filter((t) => otherScenes.includes(t.revision));
}
