/** Every verdict of a measure that was given to somebody, oldest first; nothing where there was one at most. */
export function VerdictHistory({ entries }: { entries: string[] | undefined }) {
  if (!entries) return null;
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        History of this verdict
      </summary>
      <ol className="space-y-1">
        {entries.map((entry) => (
          <li key={entry}>{entry}</li>
        ))}
      </ol>
    </details>
  );
}
