/** Called once as the web server starts. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { packOnThreads } = await import('./node/zlib');
  packOnThreads(new URL('build/packing.mjs', `file://${process.cwd()}/`));
}
