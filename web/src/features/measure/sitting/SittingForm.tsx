import { useRef } from "react";

import type { Case, Sitting } from "../../../api/client";
import { bind } from "../../../lib/bind";
import { formatDay } from "../../../lib/format";
import { Button } from "../../../ui/Button";
import { ChoiceField, DateField, TextField } from "../../../ui/Field";
import { figureName } from "../../../job/figures";
import { buildName } from "../../../job/model";
import { SaveProblem } from "../../../job/SaveProblem";
import { useOnceSent } from "../../../job/unsent";
import { UnsentNote } from "../../../job/UnsentNote";
import { mountBefore, type Restarted, sentence } from "./sitting";
import { type SittingFormState, useSittingForm } from "./useSittingForm";

const PURPOSES = [
  ["plan", "as planned"],
  ["earlier", "from an old log, counts"],
  ["trial", "a try, or the same fitted again: only tells the scatter"],
  ["recheck", "a re-check, does not count"],
] as const satisfies readonly (readonly [Sitting["purpose"], string])[];

const RESTARTED = [
  ["", "not known"],
  ["yes", "yes: a start of its own"],
  ["no", "no: both count as one sitting"],
] as const satisfies readonly (readonly [Restarted, string])[];

const REMOUNTED = [
  ["no", "no: the same mount"],
  ["yes", "yes: a mount of its own"],
] as const;

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
  const state = useSittingForm(job, sitting, build, onDone);
  const { form, edit, at, save, asked, figures } = state;
  const field = bind(form, edit, at);
  const isHot = job.measures.some((measure) => measure.kind === "heat");
  const wordsHeld = useRef(false);
  // To begin one closes those that are open: what is typed in them has to be there first.
  const open = job.sittings.filter(({ closed_at }) => closed_at === null).map(({ id }) => id);
  const { run, held: unsent } = useOnceSent(sitting ? [] : open, () => state.send(wordsHeld.current));
  const begin = (isHeld: boolean) => {
    wordsHeld.current = isHeld;
    run();
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        begin(asked.length > 0 && event.nativeEvent.submitter?.dataset["held"] === "yes");
      }}
      className="grid gap-4 sm:grid-cols-2"
    >
      {state.hasEarlier && <Restart state={state} />}
      <TextField
        label="Room temperature, °C"
        inputMode="decimal"
        autoFocus={isHot}
        hint={isHot ? "Heat is measured: without the room no verdict on it stands." : "Can be left empty."}
        {...field("ambient", "ambient_c")}
      />
      {state.isMounted && !sitting && <Remount job={job} state={state} />}
      {asked.length > 0 && (
        <p className="sm:col-span-2">
          <b className="font-semibold">Held now?</b>{" "}
          {asked.map(([key, value]) => `${figureName(key, figures)} ${value}`).join(", ")}.
        </p>
      )}
      <div className="space-y-3 sm:col-span-2">
        {save.error && !at("ambient_c") && (
          <SaveProblem
            error={save.error}
            onTakeTheirs={state.done}
            onKeepMine={(version) => state.send(false, version)}
          />
        )}
        <UnsentNote job={job} unsent={unsent} lead="Not begun: what was typed before is not all saved." />
        <Begin isNew={!sitting} isAsked={asked.length > 0} isHot={isHot} isSending={save.isPending} />
      </div>
      <More job={job} sitting={sitting} state={state} />
    </form>
  );
}

function Restart({ state: { restarted, edit, isRestartUnsure } }: { state: SittingFormState }) {
  return (
    <ChoiceField
      label="Restarted since the last sitting?"
      value={restarted}
      choices={RESTARTED}
      {...(isRestartUnsure && { hint: "The last run was written just now: say it, or it is not known." })}
      onChange={(restarted) => edit({ restarted })}
    />
  );
}

/** Asked where a mount of its own would tell something: of a later sitting of the build. */
function Remount({ job, state: { form, edit } }: { job: Case; state: SittingFormState }) {
  const { mounts, last } = mountBefore(job, form.build, null);
  if (last === null) return null;
  const tellsApart =
    "Two mounts a side tell the part from how it was mounted: lift it before one of the sittings.";
  return (
    <ChoiceField
      label="Cooler lifted and set again since the last sitting?"
      choices={REMOUNTED}
      {...(mounts < 2 && { hint: tellsApart })}
      {...bind(form, edit)("remounted")}
    />
  );
}

interface BeginProps {
  isNew: boolean;
  /** Whether it is asked if what was held last time is held now. */
  isAsked: boolean;
  isHot: boolean;
  isSending: boolean;
}

function Begin({ isNew, isAsked, isHot, isSending }: BeginProps) {
  return (
    <div className="flex flex-wrap gap-2">
      {isAsked && (
        <Button look="main" type="submit" autoFocus={!isHot} disabled={isSending} data-held="yes">
          All this is held: begin
        </Button>
      )}
      <Button
        look={isAsked ? "plain" : "main"}
        type="submit"
        autoFocus={!isHot && !isAsked}
        disabled={isSending}
      >
        {!isNew ? "Save conditions" : isAsked ? "Begin, it is not known" : "Begin the sitting"}
      </Button>
    </div>
  );
}

/** What is seldom other than usual: the build, what the sitting is for, its day and each condition. */
function More({ job, sitting, state }: { job: Case; sitting: Sitting | null; state: SittingFormState }) {
  const { form, edit, at, figures } = state;
  const field = bind(form, edit, at);
  const chosen = job.builds.find((known) => known.id === form.build);
  const held = Object.values(form.conditions).filter(Boolean).join(", ");
  return (
    <details className="sm:col-span-2" open={sitting !== null || at("started_at") !== undefined}>
      <summary className="flex min-h-11 cursor-pointer items-center text-soft">
        On {chosen ? `build ${buildName(chosen)}` : "no build"}
        {form.day && `, held on ${formatDay(form.day)}`},{" "}
        {PURPOSES.find(([key]) => key === form.purpose)?.[1]}
        {held && ` · ${held}`} · change
      </summary>
      <div className="grid gap-4 pt-2 sm:grid-cols-2">
        <ChoiceField
          label="Build"
          choices={job.builds.map((build) => [build.id, buildName(build)] as const)}
          {...field("build")}
        />
        <ChoiceField label="This sitting is" choices={PURPOSES} {...field("purpose")} />
        {!sitting && (
          <DateField
            label="Held on another day (an old log)"
            value={form.day}
            problem={at("started_at")}
            onChange={(day) => edit({ day, purpose: day ? "earlier" : "plan" })}
          />
        )}
        {figures.map(({ key }) => (
          <TextField
            key={key}
            label={sentence(figureName(key, figures))}
            value={form.conditions[key] ?? ""}
            onChange={(value) => edit({ conditions: { ...form.conditions, [key]: value } })}
          />
        ))}
      </div>
    </details>
  );
}
