/** Whether an error means that the database cannot be reached, rather than that a query is wrong. */
export function isAway(error: unknown): boolean {
  const code = (error as { code?: string }).code ?? '';
  return /^(CONNECT|CONNECTION_|ECONN|ETIMEDOUT|EPIPE|57P0|08|53300)/.test(code);
}

const WORDS: Record<string, string> = {
  53100: 'the disk of the database is full: free some of it and try again',
  53200: 'the database ran out of memory: try again',
  57014: 'the database took longer than it may: try again',
  '40P01': 'two changes held each other up in the database: try again',
};

/** What went wrong, in a line for the reader. */
export function faultWords(error: unknown): string {
  const { code, message } = error as { code?: string; message?: string };
  return WORDS[code ?? ''] ?? (message || String(error)).split('\n')[0].slice(0, 500);
}

const AGAIN_MS = 500;

/** Does something in spite of a database that is away: again and again until it is there, or until `signal` ends the waiting. */
export async function patiently<T>(signal: AbortSignal, work: () => Promise<T>): Promise<T> {
  for (;;)
    try {
      return await work();
    } catch (error) {
      if (!isAway(error) || signal.aborted) throw error;
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
}
