import { touchBlob } from '../db/blobs';
import type { Sql } from '../db/connection';
import { putStream, WrongDigest } from '../storage/blobs';
import { spool } from '../storage/spool';
import { Refusal } from './respond';

/** Largest content that may be put in one request. */
const MOST_BYTES = 500e6;

/** SHA-256 in hexadecimal of a `Content-Digest` header [RFC 9530], null without one. */
function promisedHash(header: string | null): string | null {
  if (header === null) return null;
  const found = /^sha-256=:([A-Za-z0-9+/]{43}=):$/.exec(header.trim());
  if (!found) throw new Refusal(400, 'digest', 'Content-Digest must be sha-256=:…:', 'Content-Digest');
  return Buffer.from(found[1], 'base64').toString('hex');
}

/** Stores the content of a request once by its hash: all of it or nothing. With a `Content-Digest` it must be what that says. */
export async function putSentContent(sql: Sql, request: Request): Promise<{ hash: string; bytes: number }> {
  const declared = Number(request.headers.get('content-length') ?? 0);
  if (declared > MOST_BYTES)
    throw new Refusal(413, 'too-large', `content may have ${MOST_BYTES} bytes at most`, '', { mostBytes: MOST_BYTES });
  if (!request.body) throw new Refusal(400, 'empty', 'the request has no content');
  const promised = promisedHash(request.headers.get('content-digest'));
  const known = promised === null ? null : await touchBlob(sql, promised);
  if (promised !== null && known !== null) return { hash: promised, bytes: known };
  return spool(request.body as unknown as AsyncIterable<Uint8Array>, MOST_BYTES, ({ hash, chunks }) => {
    if (promised !== null && promised !== hash) throw new WrongDigest('the content is not what its digest says');
    return putStream(sql, chunks(), MOST_BYTES, hash);
  });
}
