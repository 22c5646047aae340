/** Lets the user choose files; an empty list when they turn away. */
export function chooseFiles(accept: string, many = false): Promise<File[]> {
  return new Promise((resolve) => {
    const input = document.createElement('input');
    input.type = 'file';
    input.accept = accept;
    input.multiple = many;
    input.style.display = 'none';
    input.addEventListener('change', () => {
      resolve([...(input.files ?? [])]);
      input.remove();
    });
    input.addEventListener('cancel', () => {
      resolve([]);
      input.remove();
    });
    document.body.append(input);
    input.click();
  });
}

export const SCENE_FILES = '.glb,.gltf,.bin,.png,.jpg,.jpeg,.hdr,.exr,.tif,.tiff';

const isScene = (name: string) => /\.(glb|gltf)$/i.test(name);
const isPicture = (name: string) => /\.(hdr|exr|png|jpe?g|tiff?)$/i.test(name);

/** What some files are to be taken for. */
export function kindOf(files: readonly { name: string }[]): 'scene' | 'pictures' | null {
  if (files.some((f) => isScene(f.name))) return 'scene';
  return files.length > 0 && files.every((f) => isPicture(f.name)) ? 'pictures' : null;
}

/** Number at the end of a still's name: `plate.0101.png` has 101; null without one. */
export function stillNumber(name: string): number | null {
  const match = /(\d+)\.[a-z]+$/i.exec(name);
  return match ? Number(match[1]) : null;
}
