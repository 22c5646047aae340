import { useQuery } from '@tanstack/react-query';
import type { Mood } from '@/contract/mood';
import { api } from './api';

const NONE: Mood[] = [];

/** The moods that are kept for a trial; none while they come. */
export function useMoodsOf(trial: string | null): Mood[] {
  const { data } = useQuery({
    queryKey: ['moods', trial],
    queryFn: () => api.moods(trial!),
    enabled: trial !== null,
  });
  return data?.moods ?? NONE;
}
