import { useDesk } from '../../state/desk-store';

const LINE = 'absolute bg-white/45';

/** Lines over the picture for framing; they are never part of it. */
export function Guides({ aspect }: { aspect: number }) {
  const guide = useDesk((s) => s.guide);
  if (guide === 'none') return null;
  if (guide === 'thirds' || guide === 'middle') {
    const at = guide === 'thirds' ? [1 / 3, 2 / 3] : [1 / 2];
    return (
      <div className="pointer-events-none absolute inset-0" data-testid="guides">
        {at.map((f) => (
          <div key={f}>
            <div className={`${LINE} inset-y-0 w-px`} style={{ left: `${f * 100}%` }} />
            <div className={`${LINE} inset-x-0 h-px`} style={{ top: `${f * 100}%` }} />
          </div>
        ))}
      </div>
    );
  }
  if (guide === 'safe')
    return (
      <div className="pointer-events-none absolute inset-0" data-testid="guides">
        {[5, 10].map((inset) => (
          <div key={inset} className="absolute border border-white/45" style={{ inset: `${inset}%` }} />
        ))}
      </div>
    );
  const wanted = guide === '2.39:1' ? 2.39 : guide === '1.85:1' ? 1.85 : 1;
  const bars = wanted > aspect ? { x: 0, y: (1 - aspect / wanted) / 2 } : { x: (1 - wanted / aspect) / 2, y: 0 };
  return (
    <div className="pointer-events-none absolute inset-0" data-testid="guides">
      {bars.y > 0 && (
        <>
          <div className="absolute inset-x-0 top-0 bg-black/55" style={{ height: `${bars.y * 100}%` }} />
          <div className="absolute inset-x-0 bottom-0 bg-black/55" style={{ height: `${bars.y * 100}%` }} />
        </>
      )}
      {bars.x > 0 && (
        <>
          <div className="absolute inset-y-0 left-0 bg-black/55" style={{ width: `${bars.x * 100}%` }} />
          <div className="absolute inset-y-0 right-0 bg-black/55" style={{ width: `${bars.x * 100}%` }} />
        </>
      )}
    </div>
  );
}
