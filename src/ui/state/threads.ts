/** Threads that a trial is traced on: those of this machine, where the worker runs as well. */
export const threads = () => navigator.hardwareConcurrency || 2;
