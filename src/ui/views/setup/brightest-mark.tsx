import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { useDocument, usePatient } from '../../state/scene-now';

/** Where the surroundings are brightest, marked in the picture, or at its edge when that lies outside. */
export function BrightestMark() {
  const isSky = useDesk((s) => s.part === 'sky');
  const shown = useDocument().environment !== null && isSky;
  const patient = usePatient();
  const { answer: found } = useAsk('brightest', shown && patient ? { patient } : null, { keep: true });
  if (!shown || !found) return null;
  const words = `brightest ${found.heightDegrees.toFixed(0)}° high at ${found.bearingDegrees.toFixed(0)}° · ${Math.round(found.share * 100)} % of the light`;
  const inside = found.at && found.at.x >= 0 && found.at.x <= 1 && found.at.y >= 0 && found.at.y <= 1;
  if (!inside) {
    const way = !found.at
      ? 'behind the camera'
      : found.at.x < 0
        ? '← left of the frame'
        : found.at.x > 1
          ? 'right of the frame →'
          : found.at.y < 0
            ? '↑ above the frame'
            : '↓ below the frame';
    return (
      <span
        data-testid="brightest"
        className="num pointer-events-none absolute top-2 left-1/2 -translate-x-1/2 bg-pit/85 px-2 py-0.5 text-[11px] whitespace-nowrap text-soft"
      >
        {words} · {way}
      </span>
    );
  }
  const low = found.at!.y > 0.85;
  return (
    <div
      data-testid="brightest"
      className="pointer-events-none absolute"
      style={{ left: `${found.at!.x * 100}%`, top: `${found.at!.y * 100}%` }}
    >
      <span className="absolute -top-3 -left-3 h-6 w-6 rounded-full border border-dashed border-white outline outline-black/60" />
      <span
        className={`num absolute bg-pit/85 px-2 py-0.5 text-[11px] whitespace-nowrap text-soft ${low ? '-top-9' : 'top-4'} ${found.at!.x > 0.6 ? 'right-0' : 'left-0'}`}
      >
        {words}
      </span>
    </div>
  );
}
