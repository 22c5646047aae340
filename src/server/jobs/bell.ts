import { CHANNEL, type Sql } from '../db/connection';

/** Wakes whoever waits when there may be something to do: at news that are for it, when the database is there again, at the end. */
export class Bell {
  private wake = () => {};
  private unlisten: () => Promise<void> = async () => {};

  /** A bell that news ring for which `isFor` says so. */
  static async hung(sql: Sql, signal: AbortSignal, isFor: (news: unknown) => boolean): Promise<Bell> {
    const bell = new Bell();
    const ring = () => bell.wake();
    const heard = await sql.listen(CHANNEL, (text) => isFor(JSON.parse(text)) && ring(), ring);
    bell.unlisten = heard.unlisten;
    signal.addEventListener('abort', ring);
    return bell;
  }

  /** Resolves when it is rung, or after so many milliseconds. */
  wait(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms);
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  /** Takes it down. */
  async close(): Promise<void> {
    await this.unlisten().catch(() => {});
  }
}
