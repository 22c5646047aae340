/** Things under way that Esc leaves before it stops anything else; each says whether it was one. */
const leaving = new Set<() => boolean>();

/** Registers what Esc leaves first; returns how to take it back. */
export function onEscape(leave: () => boolean): () => void {
  leaving.add(leave);
  return () => leaving.delete(leave);
}

/** Leaves what is under way; false when nothing was. */
export function escapeFirst(): boolean {
  for (const leave of leaving) if (leave()) return true;
  return false;
}
