/**
 * Bytes as the text that a statement decodes: parameters go as text, and base64 is a third longer than the bytes where what the
 * client makes of bytes by itself is twice as long.
 */
export const base64 = (data: Uint8Array): string =>
  Buffer.from(data.buffer, data.byteOffset, data.length).toString('base64');
