/** Seconds between lines where there is no terminal. */
const LINE_SECONDS = 10;

/**
 * Tells how far a render has come: one line written over itself in a terminal, elsewhere (a file, another program) a line
 * of its own every ten seconds and, when there has been one, at the end. `fraction` 0 to 1.
 */
export function progressTeller(
  out: { write: (text: string) => void },
  isTerminal: boolean,
): (p: { fraction: number; elapsedMs: number }) => void {
  let toldAt = 0;
  return ({ fraction, elapsedMs }) => {
    const seconds = elapsedMs / 1000;
    const left = fraction > 0.01 && fraction < 1 ? `  ${Math.round(seconds / fraction - seconds)} s left` : '';
    const words = `${(fraction * 100).toFixed(0).padStart(3)} %  ${seconds.toFixed(0)} s${left}`;
    if (isTerminal) out.write(`\r${words}      `);
    else if (seconds - toldAt >= LINE_SECONDS || (fraction >= 1 && toldAt > 0 && seconds > toldAt)) {
      toldAt = seconds;
      out.write(`${words}\n`);
    }
  };
}
