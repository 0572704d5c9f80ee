/** Both columns of a block that was pasted, by its first two; null for a single column, which goes where it was pasted. */
export function splitColumns(text: string): { before: string; after: string } | null {
  const rows = text
    .replace(/\r\n?/g, "\n")
    .split("\n")
    .map((row) => row.split("\t").map((cell) => cell.trim()));
  if (!rows.some((row) => row.length > 1)) return null;
  const column = (place: number) =>
    rows
      .map((row) => row[place] ?? "")
      .filter(Boolean)
      .join("\n");
  return { before: column(0), after: column(1) };
}
