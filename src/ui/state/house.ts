import { useQuery } from '@tanstack/react-query';
import type { House } from '@/contract/shot';
import { api } from './api';

const EVERY_MS = 10000;

/** Workers and stored bytes, asked for now and then. */
export function useHouse(): House | null {
  const { data } = useQuery({ queryKey: ['house'], queryFn: api.house, refetchInterval: EVERY_MS });
  return data ?? null;
}
