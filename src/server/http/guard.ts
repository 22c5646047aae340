/** Hosts by which the server may be asked: loopback only. */
const HOST = /^(localhost|127\.0\.0\.1|\[::1\])(:\d{1,5})?$/;

/** Why a request is refused by where it comes from, or null. A foreign page must not reach a local server. */
export function foreign(headers: { get(name: string): string | null }): string | null {
  const host = headers.get('host') ?? '';
  if (!HOST.test(host)) return `host ${host.slice(0, 80)} is not this machine`;
  const origin = headers.get('origin');
  if (origin !== null && origin !== `http://${host}`) return `origin ${origin.slice(0, 80)} is not this page`;
  const site = headers.get('sec-fetch-site');
  if (site === 'cross-site') return 'the request comes from another site';
  return null;
}
