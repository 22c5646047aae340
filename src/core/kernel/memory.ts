import { PAGE_BYTES } from './layout';

/** Shared memory big enough for `bytes`. The maximum matches what the module declares. */
export function makeMemory(bytes: number): WebAssembly.Memory {
  return new WebAssembly.Memory({ initial: Math.max(16, Math.ceil(bytes / PAGE_BYTES)), maximum: 32768, shared: true });
}
