import { Tip } from '../../parts/controls';

/** What one setting of a variant can be; its label is bright where it differs from the shot. `beside` another in a row. */
export function Choice({
  label,
  tip,
  differs = false,
  beside = false,
  children,
}: {
  label: string;
  tip: string;
  differs?: boolean;
  beside?: boolean;
  children: React.ReactNode;
}) {
  return (
    <div className="mb-0.5 flex items-start gap-0.5">
      <Tip text={tip} side="left">
        <span
          className={`shrink-0 py-0.5 underline decoration-dotted ${beside ? 'mx-1.5' : 'w-[72px]'} ${differs ? 'text-ink' : 'text-dim'}`}
        >
          {label}
        </span>
      </Tip>
      <div className="flex min-w-0 flex-1 flex-wrap items-center gap-0.5">{children}</div>
    </div>
  );
}
