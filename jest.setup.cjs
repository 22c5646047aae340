const { Buffer } = require('node:buffer');

// Planes of equal bits are equal, which is seen at once; whatever differs is compared value by value as ever.
expect.addEqualityTesters([
  (a, b) => {
    if (!ArrayBuffer.isView(a) || !ArrayBuffer.isView(b)) return undefined;
    if (Object.getPrototypeOf(a) !== Object.getPrototypeOf(b) || a.byteLength !== b.byteLength) return undefined;
    const bytes = (v) => Buffer.from(v.buffer, v.byteOffset, v.byteLength);
    return bytes(a).equals(bytes(b)) ? true : undefined;
  },
]);
