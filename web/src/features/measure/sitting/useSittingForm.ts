import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { call, type Case, refusedAt, type Sitting } from "../../../api/client";
import { isDay } from "../../../lib/day";
import { useDraft } from "../../../lib/draft";
import { newId } from "../../../lib/ids";
import { type DecimalMark, readNumber, writeNumber } from "../../../lib/number";
import { runsQuery, useSave } from "../../../job/api";
import { planFor } from "../../../job/model";
import { valuesByKey } from "../../../job/parts";
import { useVocabulary } from "../../../job/vocabulary";
import {
  bootAnswer,
  bootOf,
  conditionFigures,
  mountOf,
  previousSitting,
  readConditions,
  type Restarted,
} from "./sitting";

const MINUTE_MS = 60_000;
const LOOK_MS = 2000;

/** No PC restarts, and rests as planned, in less: until then a restart is not taken for granted. */
function useIsSoon(job: Case, last: Sitting | undefined, restMin: number): boolean {
  const { data: runs = [] } = useQuery(runsQuery(job.machine.id, last ? { sitting: [last.id] } : {}));
  const written = Math.max(...runs.map((run) => Date.parse(run.written_at ?? "")).filter((at) => at > 0));
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), LOOK_MS);
    return () => clearInterval(timer);
  }, []);
  return now - written < (1 + restMin) * MINUTE_MS;
}

/** A sitting as it is typed. */
const draftOf = (job: Case, sitting: Sitting | null, id: string, build: string) => ({
  id,
  version: sitting?.version ?? null,
  build: sitting?.build ?? build,
  purpose: sitting?.purpose ?? ("plan" as const),
  restarted: bootAnswer(sitting),
  remounted: "no" as "yes" | "no",
  day: "",
  ambient: sitting?.ambient_c == null ? "" : writeNumber(sitting.ambient_c, job.machine.decimal_mark),
  conditions: readConditions(sitting?.conditions ?? {}, job.machine.decimal_mark),
});

export type SittingDraft = ReturnType<typeof draftOf>;

/** What is typed of a sitting, and what follows from it. */
function useSittingDraft(job: Case, sitting: Sitting | null, build: string) {
  const { decimal_mark } = job.machine;
  const last = previousSitting(job, sitting);
  const plan = planFor(job, build);
  // What was held last time and what the plan asks for is offered to be said; until then it is not known.
  const asked = readConditions({ ...job.sittings.at(-1)?.conditions, ...plan.conditions }, decimal_mark);
  // One id while the form is open: sent twice, a sitting is still one.
  const [id] = useState(() => sitting?.id ?? newId());
  const [form, setForm, forget] = useDraft(
    `sitting.${sitting?.id ?? job.machine.id}`,
    draftOf(job, sitting, id, build),
  );
  // What parts a sitting from those of another build is more than a restart.
  const isSoon = useIsSoon(job, last?.build === form.build ? last : undefined, plan.rest_min);
  const restarted: Restarted = form.restarted !== "usual" ? form.restarted : isSoon ? "" : "yes";
  return {
    form,
    edit: (change: Partial<SittingDraft>) => setForm({ ...form, ...change }),
    forget,
    last,
    asked,
    restarted,
    isRestartUnsure: isSoon && form.restarted === "usual",
    isMounted: plan.change === "thermal paste" || plan.change === "cooler",
  };
}

type Problems = Partial<Record<"ambient_c" | "started_at", string>>;

/** What of a sitting can't be read as it is typed. */
function problemsOf({ ambient, day }: SittingDraft, mark: DecimalMark): Problems {
  const isUnread = ambient.trim() !== "" && readNumber(ambient, mark) === null;
  return {
    ...(isUnread && { ambient_c: `Write a temperature like 22${mark}5, or leave it empty.` }),
    ...(day && !isDay(day) && { started_at: "Write a day from 1970 to 2199." }),
  };
}

interface Sent {
  version: number | null;
  conditions: Record<string, string>;
}

/** What is typed of a sitting, what follows from it, and its save. */
export function useSittingForm(
  job: Case,
  sitting: Sitting | null,
  build: string,
  onDone: (sitting: string) => void,
) {
  const { machine } = job;
  const mark = machine.decimal_mark;
  const figures = conditionFigures(useVocabulary());
  const { forget, last, asked, ...draft } = useSittingDraft(job, sitting, build);
  const { form } = draft;
  const [problems, setProblems] = useState<Problems>({});
  const done = () => {
    forget();
    onDone(form.id);
  };
  const newMount = () =>
    draft.isMounted ? mountOf(job, form.build, form.remounted === "yes", sitting) : null;
  const save = useSave(
    machine.id,
    ({ version, conditions }: Sent) =>
      call(
        "put",
        "/api/machines/{machine_id}/sittings/{sitting_id}",
        { machine_id: machine.id, sitting_id: form.id },
        {
          build: form.build,
          purpose: form.purpose,
          started_at: sitting?.started_at ?? (form.day ? `${form.day}T12:00:00Z` : new Date().toISOString()),
          ambient_c: readNumber(form.ambient, mark),
          ...bootOf({ ...form, restarted: draft.restarted }, sitting, last),
          mount: sitting ? sitting.mount : newMount(),
          conditions: valuesByKey(conditions, figures, mark),
          version,
        },
      ),
    done,
  );
  /** Sends what is typed; what was held last time too, where that was said. */
  const send = (isHeld: boolean, version = form.version) => {
    const found = problemsOf(form, mark);
    setProblems(found);
    if (Object.keys(found).length > 0) return;
    const typed = Object.entries(form.conditions).filter(([, value]) => value.trim());
    const conditions = isHeld ? { ...asked, ...Object.fromEntries(typed) } : form.conditions;
    save.mutate({ version, conditions });
  };
  return {
    ...draft,
    figures,
    save,
    send,
    done,
    hasEarlier: last !== undefined,
    at: (field: string) => problems[field as keyof Problems] ?? refusedAt(save.error)(field),
    // An old log tells of its own day, and nothing of what would be held now.
    asked: !sitting && !form.day ? Object.entries(asked).filter(([, value]) => value.trim()) : [],
  };
}

export type SittingFormState = ReturnType<typeof useSittingForm>;
