import { useState } from "react";
import { useNavigate } from "react-router";

import {
  call,
  type Case,
  type Plan,
  Refused,
  type Swap,
  type SwapView,
  type Vocabulary,
} from "../../api/client";
import { formatCount, formatList } from "../../lib/format";
import { Button, ButtonLink } from "../../ui/Button";
import { Chips } from "../../ui/Chips";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import type { DecimalMark } from "../../lib/number";
import { useSave } from "../../job/api";
import { describeRated } from "../../job/figures";
import { buildOf } from "../../job/model";
import { Account } from "./Account";
import { Checklist } from "./Checklist";
import { Gate } from "./Gate";
import { recordedBody, SIDE_CHANGES, TIME_PASSED, wordsOf } from "./model";
import { RecognitionList } from "./RecognitionList";
import { SplitForm } from "./SplitForm";
import { Starts } from "./Starts";
import { SwapDay } from "./SwapDay";
import { TeardownNotes } from "./TeardownNotes";

interface Props {
  job: Case;
  swap: Swap;
  view: SwapView;
  vocabulary: Vocabulary;
}

/** The bench of one swap: planned, with its gate; or open, with all that happens while the case is. */
export function Bench({ job, swap, view, vocabulary }: Props) {
  return (
    <div className="space-y-5">
      {swap.state === "planned" ? (
        <Gate job={job} swap={swap} lacks={view.lacks} />
      ) : (
        <OpenState job={job} swap={swap} mayGoBack={view.untouched && !view.measured_after} />
      )}
      <h1 className="lead">{sayBench(job, swap, view)}</h1>
      <div className="grid gap-5 lg:grid-cols-[16rem_1fr_20rem]">
        <Left job={job} swap={swap} view={view} vocabulary={vocabulary} />
        <div className="min-w-0 space-y-5">
          {swap.opens ? <Checklist job={job} swap={swap} /> : <Looked job={job} swap={swap} />}
          <TeardownNotes job={job} swap={swap} />
        </div>
        <Right job={job} swap={swap} view={view} vocabulary={vocabulary} />
      </div>
      <Account job={job} swap={swap} />
      {swap.state === "open" && !view.measured_after && <SwapDay job={job} swap={swap} />}
      <Foot job={job} swap={swap} />
    </div>
  );
}

function sayBench(job: Case, swap: Swap, view: SwapView): string {
  const [before, after] = [buildOf(job, swap.before), buildOf(job, swap.after)];
  const way = `Build ${before?.letter ?? "?"} → ${after?.letter ?? "?"}, ${swap.label}`;
  const [only] = view.changes;
  if (!only) return `${way}: nothing changes yet.`;
  if (view.changes.length === 1) return `${way}: only the ${only} changes.`;
  return `${way}: ${formatList(view.changes)} change together, as one bundle.`;
}

function OpenState({ job, swap, mayGoBack }: { job: Case; swap: Swap; mayGoBack: boolean }) {
  const back = useSave(
    job.machine.id,
    () =>
      call(
        "post",
        "/api/machines/{machine_id}/swaps/{swap_id}/unopen",
        { machine_id: job.machine.id, swap_id: swap.id },
        { version: swap.version },
      ),
    () => undefined,
  );
  const done = swap.steps.filter((step) => step.done_at !== null).length;
  return (
    <Note>
      <b className="font-semibold">{wordsOf(swap).underWay}</b>
      {swap.steps.length > 0 && `: ${done} of ${formatCount(swap.steps.length, "step")} done`}.
      {swap.gate_reason && (
        <>
          {" "}
          Begun although the baseline lacked something: “{swap.gate_reason}”. ({swap.gate_missing.join(" ")})
        </>
      )}
      {mayGoBack && (
        <Button look="quiet" disabled={back.isPending} onClick={() => back.mutate(undefined)}>
          {wordsOf(swap).unopen}
        </Button>
      )}
      {back.error && (
        <span role="alert" className="block font-medium text-warn">
          {back.error.message}
        </span>
      )}
    </Note>
  );
}

function Left({ job, swap, view, vocabulary }: Props) {
  const before = buildOf(job, swap.before);
  const after = buildOf(job, swap.after);
  const out = before?.parts.filter((part) => !after?.parts.some((other) => other.id === part.id)) ?? [];
  const save = useSave(
    job.machine.id,
    (change: { side_changes?: string[]; declares?: string[] }) =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}",
        { machine_id: job.machine.id, swap_id: swap.id },
        { ...recordedBody(swap), ...change },
      ),
    () => undefined,
  );
  const choices = [...new Set([...SIDE_CHANGES, TIME_PASSED, ...swap.side_changes])];
  return (
    <div className="space-y-4">
      {swap.opens && (
        <section>
          <h2 className="eyebrow mb-2 text-before!">Comes out</h2>
          <PartCards
            parts={out}
            edge="border-l-before"
            vocabulary={vocabulary}
            mark={job.machine.decimal_mark}
            none="no part"
          />
        </section>
      )}
      <section>
        <h2 className="eyebrow mb-2">Also touched: tick as it happens</h2>
        <Chips
          label="Also touched"
          choices={choices}
          chosen={swap.side_changes}
          onChange={(side_changes) => save.mutate({ side_changes })}
        />
      </section>
      {save.error && <Note alert>{save.error.message}</Note>}
      {view.questions.map((question) => (
        <Question
          key={question.code + (question.about ?? "")}
          job={job}
          swap={swap}
          question={question}
          onBelongs={(about) => save.mutate({ declares: [...swap.declares, about] })}
        />
      ))}
      <SplitForm job={job} swap={swap} view={view} />
    </div>
  );
}

interface QuestionProps {
  job: Case;
  swap: Swap;
  question: SwapView["questions"][number];
  /** A difference that nobody declared belongs to the swap. */
  onBelongs: (difference: string) => void;
}

function Question({ job, swap, question, onBelongs }: QuestionProps) {
  const { code, about, message } = question;
  return (
    <Note>
      {message}
      {code === "headline_again" && <HeadlineAgain job={job} swap={swap} about={about} />}
      {code === "undeclared_difference" && about && (
        <span className="mt-1 flex flex-wrap gap-2">
          <Button onClick={() => onBelongs(about)}>Yes, it belongs</Button>
          <ButtonLink look="quiet" to="../setup">
            No, correct the build
          </ButtonLink>
        </span>
      )}
    </Note>
  );
}

/** The plan was made for another part: its headline stands, or another one is chosen while that is still free. */
function HeadlineAgain({ job, swap, about }: { job: Case; swap: Swap; about: string | null }) {
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/plan",
        { machine_id: job.machine.id, swap_id: swap.id },
        {
          ...swap.plan,
          change: about as Plan["change"],
          reason: "",
          version: swap.plan_version,
        },
      ),
    () => undefined,
  );
  return (
    <span className="mt-1 flex flex-wrap gap-2">
      <Button disabled={save.isPending} onClick={() => save.mutate(undefined)}>
        Yes, it still decides
      </Button>
      <ButtonLink look="quiet" to={`../setup/plan?swap=${swap.id}`}>
        Choose another
      </ButtonLink>
      {save.error && <Note alert>{save.error.message}</Note>}
    </span>
  );
}

function Right({ job, swap, view, vocabulary }: Props) {
  const before = buildOf(job, swap.before);
  const after = buildOf(job, swap.after);
  const into = after?.parts.filter((part) => !before?.parts.some((other) => other.id === part.id)) ?? [];
  const settings = view.differences.filter((difference) => difference.kind === "setting");
  return (
    <div className="space-y-4">
      <section>
        <h2 className="eyebrow mb-2 text-after!">{swap.opens ? "Goes in" : "Changes"}</h2>
        {swap.opens && (
          <PartCards
            parts={into}
            edge="border-l-after"
            vocabulary={vocabulary}
            mark={job.machine.decimal_mark}
            none="no part"
          />
        )}
        {settings.map((difference) => (
          <p key={difference.key} className="mt-2">
            <span className="text-soft">{difference.name}</span>{" "}
            <span className="text-before">{difference.before ?? "–"}</span> →{" "}
            <span className="font-semibold text-after">{difference.after ?? "–"}</span>
          </p>
        ))}
      </section>
      {swap.opens && <Looked job={job} swap={swap} />}
    </div>
  );
}

/** What the machine shows once the change is made; where nothing is opened, that is all there is to be done. */
function Looked({ job, swap }: { job: Case; swap: Swap }) {
  if (swap.state !== "open") return null;
  return (
    <>
      <Starts job={job} swap={swap} />
      <RecognitionList job={job} swap={swap} />
    </>
  );
}

interface CardsProps {
  parts: Case["builds"][number]["parts"];
  edge: string;
  vocabulary: Vocabulary;
  mark: DecimalMark;
  none: string;
}

function PartCards({ parts, edge, vocabulary, mark, none }: CardsProps) {
  if (parts.length === 0) return <p className="text-soft">{none}</p>;
  return (
    <ul className="space-y-2">
      {parts.map((part) => (
        <li key={part.id} className={`rounded-lg border border-l-4 border-line bg-card p-3 ${edge}`}>
          <span className="eyebrow block">{part.role}</span>
          <span className="block font-semibold">{part.label}</span>
          <span className="text-sm text-soft">
            {describeRated(part, vocabulary, mark) || "figures unknown"}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** Always in sight: what it costs so far, and the way out of the case. */
function Foot({ job, swap }: { job: Case; swap: Swap }) {
  return (
    <div className="sticky bottom-0 -mx-5 -mb-5 flex flex-wrap items-center gap-x-5 gap-y-1 border-t border-line bg-card px-5 py-2">
      <span className="eyebrow">Cost so far</span>
      <b className="ml-auto text-lg font-semibold">{swap.net_written}</b>
      {swap.state === "open" && <Close job={job} swap={swap} />}
    </div>
  );
}

function Close({ job, swap }: { job: Case; swap: Swap }) {
  const navigate = useNavigate();
  const [skipped, setSkipped] = useState("");
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "post",
        "/api/machines/{machine_id}/swaps/{swap_id}/close",
        { machine_id: job.machine.id, swap_id: swap.id },
        { skipped, version: swap.version },
      ),
    () => void navigate("../measure"),
  );
  // What was said of lines that were not looked at goes once they were.
  const unseen = swap.recognitions.some((line) => line.result === null && !line.seen.trim());
  const isAsked = save.error instanceof Refused && Boolean(save.error.at("skipped"));
  const isUnseen = isAsked && unseen;
  return (
    <>
      {isUnseen && (
        <div className="min-w-72">
          <TextField
            label="Not looked at, because"
            placeholder="stands beside the verdict"
            maxLength={200}
            value={skipped}
            onChange={setSkipped}
          />
        </div>
      )}
      <Button id="close-case" look="main" disabled={save.isPending} onClick={() => save.mutate(undefined)}>
        {wordsOf(swap).close}
      </Button>
      {save.error && (!isAsked || unseen) && (
        <div className="basis-full">
          <Note alert>{save.error.message}</Note>
        </div>
      )}
    </>
  );
}
