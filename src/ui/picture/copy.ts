import { toast } from 'sonner';
import { tell } from '../state/tell';

/** Puts what A shows on the clipboard as a PNG, pixel by pixel as the film has them. */
export async function copyPicture(): Promise<void> {
  try {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid="canvas-a"]');
    if (!canvas || canvas.width === 0) throw new Error('there is no picture yet');
    // The browser wants it while the key is still being handled: it waits for the bytes by itself.
    const png = new Promise<Blob>((resolve, reject) =>
      canvas.toBlob(
        (blob) => (blob ? resolve(blob) : reject(new Error('the picture could not be packed'))),
        'image/png',
      ),
    );
    await navigator.clipboard.write([new ClipboardItem({ 'image/png': png })]);
    toast(`Copied: ${canvas.width}×${canvas.height} pixels`);
  } catch (error) {
    tell(error);
  }
}
