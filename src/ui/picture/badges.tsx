/** Which trial stands where, and why a picture is not there yet. */
export function Badges({
  absent,
  labelA,
  labelB,
  turn,
}: {
  absent: string | null;
  labelA: string;
  /** Null while B is not shown. */
  labelB: string | null;
  /** Whose turn it is when A and B are shown by turns. */
  turn: 'A' | 'B' | null;
}) {
  return (
    <>
      <span
        className={`num absolute top-3 left-3 bg-a px-2 py-0.5 text-[11.5px] font-semibold text-pit ${turn === 'B' ? 'opacity-25' : ''}`}
      >
        A {labelA}
      </span>
      {labelB !== null && (
        <span
          className={`num absolute top-3 right-3 bg-b px-2 py-0.5 text-[11.5px] font-semibold text-pit ${turn === 'A' ? 'opacity-25' : ''}`}
        >
          B {labelB}
        </span>
      )}
      {absent && (
        <div className="absolute inset-x-0 top-1/2 text-center">
          <span className="bg-pit/90 px-3 py-1.5 text-soft">{absent}</span>
        </div>
      )}
    </>
  );
}

/** The part of the frame that is rendered. */
export function RegionFrame({
  region,
  frame,
}: {
  region: { x: number; y: number; w: number; h: number };
  frame: { width: number; height: number };
}) {
  return (
    <div
      className="pointer-events-none absolute border border-dashed border-white/80 outline outline-black/50"
      style={{
        left: `${region.x * 100}%`,
        top: `${region.y * 100}%`,
        width: `${region.w * 100}%`,
        height: `${region.h * 100}%`,
      }}
    >
      <span className="num absolute bottom-full left-0 bg-pit/90 px-1.5 py-0.5 text-[11px] whitespace-nowrap">
        {Math.round(region.w * frame.width)}×{Math.round(region.h * frame.height)}
      </span>
    </div>
  );
}
