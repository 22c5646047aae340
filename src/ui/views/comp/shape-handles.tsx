'use client';

import { type PointerEvent, useRef } from 'react';
import { at, inserted, type Path, type Stack, withAt } from '@/core/comp';
import { useDesk } from '../../state/desk-store';
import { settle } from '../../state/history';
import { useStacked } from '../../state/stacking';
import { change, pathOf, pathText, put } from './actions';

type Item = Stack['masks'][string]['of'][number];
type Point = readonly [number, number];

/** A point of a shape that can be dragged: where it is in parts of the frame, and what it sets. */
interface Handle {
  label: string;
  place: Point;
  /** Keys below the item, and the value that a place means; the place in parts of the frame. */
  to: (place: Point) => { at: Path; value: unknown };
}

/** Middles of a polygon's edges, at which corners can be added, each with where it would stand among them. */
const middlesOf = (item: Item): { place: Point; index: number }[] =>
  item.kind !== 'polygon'
    ? []
    : item.points.map(([x, y], i) => {
        const [u, v] = item.points[(i + 1) % item.points.length];
        return { place: [(x + u) / 2, (y + v) / 2], index: i + 1 };
      });

const LEAST_CORNERS = 3;

const rounded = (v: number) => Number(v.toFixed(4));
const pointTo =
  (...path: Path) =>
  ([x, y]: Point) => ({ at: path, value: [rounded(x), rounded(y)] });

/** Handles of a shape; lengths are in parts of the height, `aspect` of which the width is. */
export function handlesOf(item: Item, aspect: number): Handle[] {
  switch (item.kind) {
    case 'gradient':
      return [
        { label: '0 of the gradient', place: item.from, to: pointTo('from') },
        { label: '1 of the gradient', place: item.to, to: pointTo('to') },
      ];
    case 'polygon':
      return item.points.map((place, i) => ({ label: `corner ${i + 1}`, place, to: pointTo('points', i) }));
    case 'ellipse': {
      const turn = (item.turnDegrees * Math.PI) / 180;
      const axes: Point[] = [
        [Math.cos(turn), Math.sin(turn)],
        [-Math.sin(turn), Math.cos(turn)],
      ];
      const [cx, cy] = item.center;
      const edge = (k: 0 | 1): Handle => ({
        label: k === 0 ? 'width of the ellipse' : 'height of the ellipse',
        place: [cx + (axes[k][0] * item.radius[k]) / aspect, cy + axes[k][1] * item.radius[k]],
        to: ([x, y]) => {
          const along = (x - cx) * aspect * axes[k][0] + (y - cy) * axes[k][1];
          return { at: ['radius', k], value: rounded(Math.max(0.001, Math.abs(along))) };
        },
      });
      return [{ label: 'middle of the ellipse', place: item.center, to: pointTo('center') }, edge(0), edge(1)];
    }
    default:
      return [];
  }
}

/** The outline of a shape, in parts of the height. */
function Outline({ item, aspect }: { item: Item; aspect: number }) {
  const line = { fill: 'none', stroke: '#fff', strokeWidth: 1, vectorEffect: 'non-scaling-stroke' as const };
  if (item.kind === 'ellipse') {
    const [x, y] = [item.center[0] * aspect, item.center[1]];
    return (
      <ellipse
        cx={x}
        cy={y}
        rx={item.radius[0]}
        ry={item.radius[1]}
        transform={`rotate(${item.turnDegrees} ${x} ${y})`}
        {...line}
      />
    );
  }
  if (item.kind === 'polygon')
    return <polygon points={item.points.map(([x, y]) => `${x * aspect},${y}`).join(' ')} {...line} />;
  if (item.kind !== 'gradient') return null;
  return (
    <line
      x1={item.from[0] * aspect}
      y1={item.from[1]}
      x2={item.to[0] * aspect}
      y2={item.to[1]}
      strokeDasharray="6 4"
      {...line}
    />
  );
}

/** Shapes of the mask of the open entry over the picture: their points can be dragged, or moved by arrow keys. */
export function ShapeHandles({ aspect }: { aspect: number }) {
  const stacked = useStacked();
  const entry = useDesk((s) => s.entry);
  const box = useRef<HTMLDivElement>(null);
  const held = useRef<string | null>(null);
  if (stacked === null || typeof stacked === 'string' || entry === null) return null;
  const { stack, frame } = stacked;
  const mask = at(stack, [...pathOf(entry), 'mask']);
  const items = typeof mask === 'string' ? (stack.masks[mask]?.of ?? []) : [];
  const shapes = items.map((item, i) => ({ item, base: ['masks', mask as string, 'of', i] as Path }));
  const set = (base: Path, handle: Handle, place: Point, drag: boolean) => {
    const { at: path, value } = handle.to(place);
    put(handle.label, [...base, ...path], value, frame, drag);
  };
  /** Takes a corner away, where enough are left. */
  const less = (item: Item, base: Path, handle: Handle) => {
    if (item.kind !== 'polygon' || item.points.length <= LEAST_CORNERS) return;
    change(`${handle.label} taken away`, (s) => withAt(s, [...base, ...handle.to(handle.place).at], undefined));
  };
  const placeOf = (e: PointerEvent): Point => {
    const { left, top, width, height } = box.current!.getBoundingClientRect();
    return [(e.clientX - left) / width, (e.clientY - top) / height];
  };
  return (
    <div ref={box} className="pointer-events-none absolute inset-0" data-testid="shape-handles">
      <svg
        viewBox={`0 0 ${aspect} 1`}
        preserveAspectRatio="none"
        className="absolute inset-0 h-full w-full overflow-visible mix-blend-difference"
        aria-hidden="true"
      >
        {shapes.map(({ item, base }) => (
          <Outline key={pathText(base)} item={item} aspect={aspect} />
        ))}
      </svg>
      {shapes.flatMap(({ item, base }) =>
        handlesOf(item, aspect).map((handle) => {
          const key = `${pathText(base)} ${handle.label}`;
          return (
            <button
              key={key}
              type="button"
              aria-label={handle.label}
              className="pointer-events-auto absolute h-2.5 w-2.5 -translate-x-1/2 -translate-y-1/2 cursor-move touch-none rounded-full border border-pit bg-fill"
              style={{ left: `${handle.place[0] * 100}%`, top: `${handle.place[1] * 100}%` }}
              onPointerDown={(e) => {
                e.stopPropagation();
                e.currentTarget.setPointerCapture(e.pointerId);
                held.current = key;
              }}
              onPointerMove={(e) => {
                if (held.current === key) set(base, handle, placeOf(e), true);
              }}
              onPointerUp={(e) => {
                e.stopPropagation();
                held.current = null;
                settle();
              }}
              onDoubleClick={() => less(item, base, handle)}
              onKeyDown={(e) => {
                if (e.key === 'Delete' || e.key === 'Backspace') {
                  e.preventDefault();
                  e.stopPropagation();
                  less(item, base, handle);
                  return;
                }
                const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
                if (!by) return;
                e.preventDefault();
                e.stopPropagation();
                const step = e.shiftKey ? 0.02 : 0.002;
                set(base, handle, [handle.place[0] + by[0] * step, handle.place[1] + by[1] * step], false);
              }}
            />
          );
        }),
      )}
      {shapes.flatMap(({ item, base }) =>
        middlesOf(item).map(({ place, index }) => {
          const key = `${pathText(base)} between ${index}`;
          const to = [...base, 'points', index];
          const more = () =>
            change('a corner more', (s) =>
              inserted(s, { list: [...base, 'points'], index }, [rounded(place[0]), rounded(place[1])]),
            );
          return (
            <button
              key={key}
              type="button"
              aria-label={`a corner between ${index} and ${(index % (item.kind === 'polygon' ? item.points.length : 1)) + 1}`}
              className="pointer-events-auto absolute h-2 w-2 -translate-x-1/2 -translate-y-1/2 cursor-copy touch-none rounded-full border border-fill bg-pit opacity-70"
              style={{ left: `${place[0] * 100}%`, top: `${place[1] * 100}%` }}
              onPointerDown={(e) => {
                e.stopPropagation();
                e.currentTarget.setPointerCapture(e.pointerId);
                if (more()) held.current = key;
              }}
              onPointerMove={(e) => {
                if (held.current !== key) return;
                const [x, y] = placeOf(e);
                put('a corner', to, [rounded(x), rounded(y)], frame, true);
              }}
              onPointerUp={(e) => {
                e.stopPropagation();
                held.current = null;
                settle();
              }}
              onKeyDown={(e) => {
                if (e.key !== 'Enter') return;
                e.stopPropagation();
                more();
              }}
            />
          );
        }),
      )}
    </div>
  );
}
