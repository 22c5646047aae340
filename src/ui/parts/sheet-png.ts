/** A picture of a sheet with what is written under it. */
export interface Tile {
  picture: ImageBitmap | null;
  title: string;
  figures: string;
}

const GAP = 16;
const TEXT = 44;
const HEAD = 48;
const MOST_WIDTH = 480;

/** Draws a contact sheet in rows of so many, and gives it as a PNG. */
export async function sheetPng(heading: string, tiles: readonly Tile[], columns: number): Promise<Blob> {
  const own = tiles.find((t) => t.picture)?.picture;
  const width = Math.min(MOST_WIDTH, Math.max(160, own?.width ?? 320));
  const height = Math.round(width * (own ? own.height / own.width : 9 / 16));
  const rows = Math.ceil(tiles.length / columns);
  const canvas = new OffscreenCanvas(GAP + columns * (width + GAP), HEAD + rows * (height + TEXT + GAP));
  const c = canvas.getContext('2d')!;
  c.fillStyle = '#1c1c1c';
  c.fillRect(0, 0, canvas.width, canvas.height);
  c.fillStyle = '#ececec';
  c.font = '600 15px "IBM Plex Sans"';
  c.fillText(heading, GAP, 30, canvas.width - 2 * GAP);
  tiles.forEach((t, i) => {
    const x = GAP + (i % columns) * (width + GAP);
    const y = HEAD + Math.floor(i / columns) * (height + TEXT + GAP);
    if (t.picture) c.drawImage(t.picture, x, y, width, height);
    c.fillStyle = '#ececec';
    c.font = '13px "IBM Plex Sans"';
    c.fillText(t.title, x, y + height + 18, width);
    c.fillStyle = '#b4b4b4';
    c.font = '12px "IBM Plex Mono"';
    c.fillText(t.figures, x, y + height + 36, width);
  });
  return canvas.convertToBlob({ type: 'image/png' });
}
