const { TestEnvironment } = require('jest-environment-jsdom');

/** A page for tests of components: a DOM, with what every browser has and jsdom has not. */
module.exports = class PageEnvironment extends TestEnvironment {
  constructor(...args) {
    super(...args);
    Object.assign(this.global, { TextEncoder, TextDecoder, structuredClone, Uint8Array, ArrayBuffer });
  }
};
