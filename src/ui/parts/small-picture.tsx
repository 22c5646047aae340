import { useEffect, useRef } from 'react';

/** A small picture pixel by pixel, so many screen pixels a pixel; without a scale as wide as there is room. */
export function Small({
  picture: { width, height, pixels },
  scale,
  label,
}: {
  picture: { width: number; height: number; pixels: Uint8ClampedArray<ArrayBuffer> };
  scale?: number;
  label?: string;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    canvas.current?.getContext('2d')?.putImageData(new ImageData(pixels, width, height), 0, 0);
  }, [width, height, pixels]);
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      role={label ? 'img' : undefined}
      aria-label={label}
      className={scale ? 'block shrink-0 [image-rendering:pixelated]' : 'block w-full'}
      style={scale ? { width: width * scale, height: height * scale } : undefined}
    />
  );
}
