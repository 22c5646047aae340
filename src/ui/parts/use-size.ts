import { useEffect, useState } from 'react';

/** Size of an element's content, as it is laid out. */
export function useSize(
  element: HTMLElement | null,
  first = { width: 0, height: 0 },
): { width: number; height: number } {
  const [size, setSize] = useState(first);
  useEffect(() => {
    if (!element) return;
    const observer = new ResizeObserver(([entry]) =>
      setSize({ width: entry.contentRect.width, height: entry.contentRect.height }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, [element]);
  return size;
}
