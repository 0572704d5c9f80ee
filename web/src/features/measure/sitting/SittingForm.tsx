import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useEffect, useRef, useState } from "react";

import { call, type Case, type Figure, Refused, type Sitting, type Vocabulary } from "../../../api/client";
import { isDay } from "../../../lib/day";
import { useDraft } from "../../../lib/draft";
import { formatDay } from "../../../lib/format";
import { newId } from "../../../lib/ids";
import { type DecimalMark, readNumber, writeNumber, writeValue } from "../../../lib/number";
import { Button } from "../../../ui/Button";
import { ChoiceField, DateField, TextField } from "../../../ui/Field";
import { runsQuery, useSave } from "../../../job/api";
import { figureName } from "../../../job/figures";
import { buildName, planFor } from "../../../job/model";
import { valuesOf } from "../../../job/parts";
import { SaveProblem } from "../../../job/SaveProblem";
import { useOnceSent } from "../../../job/unsent";
import { UnsentNote } from "../../../job/UnsentNote";
import { useVocabulary } from "../../../job/vocabulary";

const PURPOSES = [
  ["plan", "as planned"],
  ["earlier", "from an old log, counts"],
  ["trial", "a try, or the same fitted again: only tells the scatter"],
  ["recheck", "a re-check, does not count"],
] as const satisfies readonly (readonly [Sitting["purpose"], string])[];

type Restarted = "yes" | "no" | "";

const RESTARTED = [
  ["", "not known"],
  ["yes", "yes: a start of its own"],
  ["no", "no: both count as one sitting"],
] as const satisfies readonly (readonly [Restarted, string])[];

/** The sitting before this one, whatever it was held on; of a new one the newest. */
function previousSitting(job: Case, sitting: Sitting | null): Sitting | undefined {
  const earlier = job.sittings.filter((other) => !sitting || other.started_at < sitting.started_at);
  return earlier.reduce<Sitting | undefined>(
    (last, other) => (last && last.started_at > other.started_at ? last : other),
    undefined,
  );
}

/** The start of the machine as it was answered; sittings that share one are one unit. */
function bootOf(
  form: { id: string; restarted: Restarted },
  sitting: Sitting | null,
  last: Sitting | undefined,
): Pick<Sitting, "boot" | "boot_by"> {
  if (sitting?.boot_by === "read") return { boot: sitting.boot, boot_by: sitting.boot_by };
  if (form.restarted === "yes" || !last) return { boot: `start ${form.id}`, boot_by: "answered" };
  const same = form.restarted === "no" ? last.boot : null;
  return { boot: same, boot_by: same === null ? null : "answered" };
}

const REMOUNTED = [
  ["no", "no: the same mount"],
  ["yes", "yes: a mount of its own"],
] as const;

/** The sittings of a build before this one, and the mount that the newest of them stood on. */
function mountBefore(
  job: Case,
  build: string,
  sitting: Sitting | null,
): { mounts: number; last: number | null } {
  const earlier = job.sittings.filter(
    (other) => other.build === build && (!sitting || other.started_at < sitting.started_at),
  );
  const mounts = earlier.map((other) => other.mount ?? 1);
  return { mounts: new Set(mounts).size, last: mounts.at(-1) ?? null };
}

/** The number of a sitting's mount: the one before it, or the next one; a build's first sitting has one of its own. */
function mountOf(job: Case, build: string, isRemounted: boolean, sitting: Sitting | null): number {
  const { last } = mountBefore(job, build, sitting);
  const highest = Math.max(0, ...job.sittings.map((other) => other.mount ?? 1));
  return last !== null && !isRemounted ? last : highest + 1;
}

/** What was answered of a sitting's start; of a new one nothing yet. */
function bootAnswer(sitting: Sitting | null): Restarted | "usual" {
  if (!sitting) return "usual";
  if (sitting.boot === null) return "";
  return sitting.boot === `start ${sitting.id}` ? "yes" : "no";
}

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

/** Conditions of a sitting: the plan's range for the room is held against what was read, and is none of them. */
const conditionFigures = (vocabulary: Vocabulary): Figure[] =>
  vocabulary.conditions.filter((figure) => !figure.key.startsWith("ambient_"));

interface Sent {
  ambient: number | null;
  version: number | null;
  conditions: Record<string, string>;
}

interface Props {
  job: Case;
  /** The sitting to correct, or null to begin one. */
  sitting: Sitting | null;
  /** The build that a new sitting is held on, unless another is chosen. */
  build: string;
  /** Called with the sitting's id, once it stands as the server has it. */
  onDone: (sitting: string) => void;
}

/** The conditions of a sitting, asked before the first run; what the last one held is filled in. */
export function SittingForm({ job, sitting, build, onDone }: Props) {
  const { machine } = job;
  const vocabulary = useVocabulary();
  const figures = conditionFigures(vocabulary);
  const last = previousSitting(job, sitting);
  // What was held last time and what the plan asks for is offered to be said; until then it is not known.
  const asked = readConditions(
    { ...job.sittings.at(-1)?.conditions, ...planFor(job, build).conditions },
    machine.decimal_mark,
  );
  const change = planFor(job, build).change;
  const isMounted = change === "thermal paste" || change === "cooler";
  const isHot = job.measures.some((measure) => measure.kind === "heat");
  // One id while the form is open: sent twice, a sitting is still one.
  const [id] = useState(() => sitting?.id ?? newId());
  const [form, setForm, forget] = useDraft(sitting ? `sitting.${sitting.id}` : `sitting.${machine.id}`, {
    id,
    version: sitting?.version ?? null,
    build: sitting?.build ?? build,
    purpose: sitting?.purpose ?? "plan",
    restarted: bootAnswer(sitting),
    remounted: "no",
    day: "",
    ambient: sitting?.ambient_c == null ? "" : writeNumber(sitting.ambient_c, machine.decimal_mark),
    conditions: readConditions(sitting?.conditions ?? {}, machine.decimal_mark),
  });
  // What parts a sitting from those of another build is more than a restart.
  const isSoon = useIsSoon(job, last?.build === form.build ? last : undefined, planFor(job, build).rest_min);
  const restarted: Restarted = form.restarted !== "usual" ? form.restarted : isSoon ? "" : "yes";
  const saidHeld = useRef(false);
  const [problem, setProblem] = useState<string>();
  const [dayProblem, setDayProblem] = useState<string>();
  const save = useSave(
    machine.id,
    ({ ambient, version, conditions }: Sent) =>
      call(
        "put",
        "/api/machines/{machine_id}/sittings/{sitting_id}",
        { machine_id: machine.id, sitting_id: form.id },
        {
          build: form.build,
          purpose: form.purpose,
          started_at: sitting?.started_at ?? (form.day ? `${form.day}T12:00:00Z` : new Date().toISOString()),
          ambient_c: ambient,
          ...bootOf({ ...form, restarted }, sitting, last),
          mount: sitting
            ? sitting.mount
            : isMounted
              ? mountOf(job, form.build, form.remounted === "yes", sitting)
              : null,
          conditions: valuesOf(
            Object.entries(conditions).map(([name, value]) => ({ name, value })),
            figures,
            machine.decimal_mark,
          ),
          version,
        },
      ),
    () => {
      forget();
      onDone(form.id);
    },
  );
  const dayRefused = dayProblem ?? (save.error instanceof Refused ? save.error.at("started_at") : undefined);
  const onSubmitted = () => {
    const ambient = form.ambient.trim() ? readNumber(form.ambient, machine.decimal_mark) : null;
    const bad = form.ambient.trim() && ambient === null;
    setProblem(bad ? `Write a temperature like 22${machine.decimal_mark}5, or leave it empty.` : undefined);
    const badDay = form.day && !isDay(form.day);
    setDayProblem(badDay ? "Write a day from 1970 to 2199." : undefined);
    if (bad || badDay) return;
    const typed = Object.entries(form.conditions).filter(([, value]) => value.trim());
    const conditions = saidHeld.current ? { ...asked, ...Object.fromEntries(typed) } : form.conditions;
    save.mutate({ ambient, version: form.version, conditions });
  };
  // To begin one closes those that are open: what is typed in them has to be there first.
  const open = job.sittings.filter(({ closed_at }) => closed_at === null).map(({ id }) => id);
  const { run, held: unsent } = useOnceSent(sitting ? [] : open, () => onSubmitted());
  const chosen = job.builds.find((known) => known.id === form.build);
  const name = chosen ? `build ${buildName(chosen)}` : "no build";
  const held = Object.values(form.conditions).filter(Boolean).join(", ");
  const askedFor = Object.entries(asked).filter(([, value]) => value.trim());
  // An old log tells of its own day, and nothing of what would be held now.
  const isAsked = !sitting && !form.day && askedFor.length > 0;
  const refused = save.error instanceof Refused ? save.error.at("ambient_c") : undefined;
  return (
    <form
      onSubmit={(event: FormEvent) => {
        event.preventDefault();
        run();
      }}
      className="grid gap-4 sm:grid-cols-2"
    >
      {last && (
        <ChoiceField
          label="Restarted since the last sitting?"
          value={restarted}
          choices={RESTARTED}
          hint={
            isSoon && form.restarted === "usual"
              ? "The last run was written just now: say it, or it is not known."
              : undefined
          }
          onChange={(restarted) => setForm({ ...form, restarted })}
        />
      )}
      <TextField
        label="Room temperature, °C"
        inputMode="decimal"
        autoFocus={isHot}
        hint={isHot ? "Heat is measured: without the room no verdict on it stands." : "Can be left empty."}
        value={form.ambient}
        problem={problem ?? refused}
        onChange={(ambient) => setForm({ ...form, ambient })}
      />
      {isMounted && !sitting && mountBefore(job, form.build, null).last !== null && (
        <ChoiceField
          label="Cooler lifted and set again since the last sitting?"
          value={form.remounted}
          choices={REMOUNTED}
          hint={
            mountBefore(job, form.build, null).mounts < 2
              ? "Two mounts a side tell the part from how it was mounted: lift it before one of the sittings."
              : undefined
          }
          onChange={(remounted) => setForm({ ...form, remounted })}
        />
      )}
      {isAsked && (
        <p className="sm:col-span-2">
          <b className="font-semibold">Held now?</b>{" "}
          {askedFor.map(([key, value]) => `${figureName(key, figures)} ${value}`).join(", ")}.
        </p>
      )}
      <div className="space-y-3 sm:col-span-2">
        {save.error && !refused && (
          <SaveProblem
            error={save.error}
            onTakeTheirs={() => {
              forget();
              onDone(form.id);
            }}
            onKeepMine={(version) =>
              save.mutate({
                ambient: readNumber(form.ambient, machine.decimal_mark),
                version,
                conditions: form.conditions,
              })
            }
          />
        )}
        <UnsentNote job={job} unsent={unsent} lead="Not begun: what was typed before is not all saved." />
        <div className="flex flex-wrap gap-2">
          {isAsked && (
            <Button
              look="main"
              type="submit"
              autoFocus={!isHot}
              disabled={save.isPending}
              onClick={() => (saidHeld.current = true)}
            >
              All this is held: begin
            </Button>
          )}
          <Button
            look={isAsked ? "plain" : "main"}
            type="submit"
            autoFocus={!isHot && !isAsked}
            disabled={save.isPending}
            onClick={() => (saidHeld.current = false)}
          >
            {sitting ? "Save conditions" : isAsked ? "Begin, it is not known" : "Begin the sitting"}
          </Button>
        </div>
      </div>
      <details className="sm:col-span-2" open={sitting !== null || dayRefused !== undefined}>
        <summary className="flex min-h-11 cursor-pointer items-center text-soft">
          On {name}
          {form.day && `, held on ${formatDay(form.day)}`},{" "}
          {PURPOSES.find(([key]) => key === form.purpose)?.[1]}
          {held && ` · ${held}`} · change
        </summary>
        <div className="grid gap-4 pt-2 sm:grid-cols-2">
          <ChoiceField
            label="Build"
            problem={save.error instanceof Refused ? save.error.at("build") : undefined}
            value={form.build}
            choices={job.builds.map((build) => [build.id, buildName(build)] as const)}
            onChange={(build) => setForm({ ...form, build })}
          />
          <ChoiceField
            label="This sitting is"
            value={form.purpose}
            choices={PURPOSES}
            onChange={(purpose) => setForm({ ...form, purpose })}
          />
          {!sitting && (
            <DateField
              label="Held on another day (an old log)"
              problem={dayRefused}
              value={form.day}
              onChange={(day) => setForm({ ...form, day, purpose: day ? "earlier" : "plan" })}
            />
          )}
          {figures.map(({ key }) => (
            <TextField
              key={key}
              label={sentence(figureName(key, figures))}
              value={form.conditions[key] ?? ""}
              onChange={(value) => setForm({ ...form, conditions: { ...form.conditions, [key]: value } })}
            />
          ))}
        </div>
      </details>
    </form>
  );
}

const readConditions = (conditions: Sitting["conditions"], mark: DecimalMark): Record<string, string> =>
  Object.fromEntries(
    Object.entries(conditions)
      .filter(([key]) => !key.startsWith("ambient_"))
      .map(([key, value]) => [key, writeValue(value, mark)]),
  );

const sentence = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** Conditions as label and value. */
export const listConditions = (
  sitting: Sitting,
  vocabulary: Vocabulary,
  mark: DecimalMark,
): [string, string][] =>
  Object.entries(readConditions(sitting.conditions, mark)).map(([key, value]) => [
    sentence(figureName(key, vocabulary.conditions)),
    value,
  ]);
