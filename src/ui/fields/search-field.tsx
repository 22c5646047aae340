/** Words to search by; Escape empties it. Keys typed into it do nothing else. */
export function SearchField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (words: string) => void;
}) {
  return (
    <input
      type="search"
      aria-label={label}
      placeholder={label}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === 'Escape') onChange('');
      }}
      className="min-w-0 flex-1 rounded-sm border border-line bg-pit px-2 py-0.5 outline-none focus:border-soft"
    />
  );
}
