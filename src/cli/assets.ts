/** Files that verbs need beside their own code. */
export interface Assets {
  kernel: URL;
  /** The inner loops of denoising. */
  filter: URL;
  thread: URL;
  version: string;
}
