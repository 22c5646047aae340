declare module 'gltf-validator' {
  interface Message {
    code: string;
    message: string;
    severity: number;
    pointer?: string;
    offset?: number;
  }
  export function validateBytes(
    bytes: Uint8Array,
    options: { maxIssues: number },
  ): Promise<{ issues: { numErrors: number; messages: Message[] } }>;
}
