import { useQuery } from "@tanstack/react-query";

import type { Case } from "../api/client";
import { Note } from "../ui/Note";
import { whatIfQuery } from "./api";
import { sayWhatIf } from "./says";

/** What leaving a run out, or setting a sitting aside, would do to the verdicts: said before it is done. */
export function WhatIf({ job, ...what }: { job: Case; run?: string; sitting?: string }) {
  const { data } = useQuery(whatIfQuery(job.machine.id, what));
  if (!data) return <p className="text-soft">Working out what it would change…</p>;
  return <Note>{sayWhatIf(job, data)}</Note>;
}
