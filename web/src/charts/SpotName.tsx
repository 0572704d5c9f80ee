import type { Label } from "./labels";

/** The name of a spot, where `placeLabels` put it. */
export function SpotName({ label, fontSize = 11 }: { label: Label | undefined; fontSize?: number }) {
  if (!label) return null;
  const { text, leader, ...place } = label;
  return (
    <>
      {leader && <line {...leader} stroke="var(--edge)" strokeWidth={1} />}
      <text {...place} fontSize={fontSize} fill="var(--ink)">
        {text}
      </text>
    </>
  );
}
