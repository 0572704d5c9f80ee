/** Fields of forms that were called otherwise when drafts had their first shape. */
const OLDER: Record<string, string> = { fitSaid: "fitAnswer", evidence: "grounds" };

/** What was kept under older names, with those of today; texts are left as they were typed. */
export function withNewerNames(kept: unknown): unknown {
  if (Array.isArray(kept)) return kept.map(withNewerNames);
  if (typeof kept !== "object" || kept === null) return kept;
  return Object.fromEntries(
    Object.entries(kept).map(([name, value]) => [
      OLDER[name] ?? name,
      name === "by" && value === "jobs" ? "tasks" : withNewerNames(value),
    ]),
  );
}
