import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { type BeginningIn, call, refusedAt } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import { DECIMAL_MARKS } from "../../lib/number";
import { isWork } from "../../lib/work";
import { Button, ButtonLink } from "../../ui/Button";
import { CardChoice } from "../../ui/CardChoice";
import { ChoiceField, TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { Term } from "../../ui/Term";
import { TopBarHome } from "../../ui/TopBar";
import { refreshBenches } from "../../job/api";
import { MEASURE_KINDS } from "../../job/kinds";
import { useTemplates, useVocabulary } from "../../job/vocabulary";
import {
  CHANGES,
  emptyStart,
  emptyTimed,
  type FigureName,
  FIGURES,
  firstFigure,
  marginUnit,
  type Problems,
  readStart,
  sayAmount,
  sayMargin,
  type StartDraft,
  type TimedDraft,
} from "./model";

/** What is typed of a new job, and how it begins. */
function useStart() {
  const [draft, setDraft, forget] = useDraft("start", emptyStart());
  const [problems, setProblems] = useState<Problems>({});
  const navigate = useNavigate();
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (body: BeginningIn) =>
      call("put", "/api/machines/{machine_id}/beginning", { machine_id: draft.machine }, body),
    onSuccess: async () => {
      forget();
      await refreshBenches(client);
      await navigate(`/machines/${draft.machine}/measure`);
    },
  });
  const begin = (quick: boolean) => {
    const read = readStart(draft, quick, Intl.DateTimeFormat().resolvedOptions().timeZone);
    setProblems("problems" in read ? read.problems : {});
    if ("body" in read) save.mutate(read.body);
  };
  const at = (field: string, sent = field) => problems[field] ?? refusedAt(save.error)(sent);
  const set = (change: Partial<StartDraft>) => setDraft({ ...draft, ...change });
  return { draft, set, at, problems, save, begin };
}

type State = ReturnType<typeof useStart>;

/** A new job begins with what is to be changed; the plan, the checklist and the costs follow from it. */
export function StartPage() {
  const state = useStart();
  const { draft, set, at, save, begin } = state;
  return (
    <>
      <TopBarHome context="New job" />
      <main className="grid xl:grid-cols-[1fr_24rem]">
        <form
          onSubmit={(event) => {
            event.preventDefault();
            begin(false);
          }}
          className="min-w-0 space-y-5 p-6"
        >
          <div>
            <h1 className="lead mb-1">What are you going to change?</h1>
            <p className="text-soft">
              The plan, the checklist and the costs follow from it. Everything else can wait.
            </p>
          </div>
          <CardChoice
            label="What is to be changed"
            value={draft.change}
            cards={CHANGES}
            onChange={(change) => set({ change, timed: timedFor(change, draft.timed) })}
          />
          <div className="grid gap-4 md:grid-cols-2">
            <TextField
              label="Which machine"
              value={draft.name}
              problem={at("name", "machine.name")}
              onChange={(name) => set({ name })}
            />
            <TextField
              label="What hurts (can wait)"
              value={draft.hurts}
              problem={at("hurts", "machine.question")}
              onChange={(hurts) => set({ hurts })}
            />
          </div>
          <TimedTasks {...state} />
          {save.error && <Note alert>{save.error.message}</Note>}
          <Ways isSending={save.isPending} onQuick={() => begin(true)} />
        </form>
        <PlanInSentences draft={draft} problems={state.problems} onSet={set} />
      </main>
    </>
  );
}

/** The first job is read in what the change is about, until it is named. */
function timedFor(change: StartDraft["change"], timed: TimedDraft[]): TimedDraft[] {
  const [first, ...others] = timed;
  return first && !first.name ? [{ ...first, figure: firstFigure(change) }, ...others] : timed;
}

/** What the machine does all day, job by job. */
function TimedTasks({ draft, set, at }: State) {
  const { timed } = draft;
  const hasControl = timed.some(({ purpose, name }) => purpose === "control" && name.trim());
  const edit = (index: number, change: Partial<TimedDraft>) =>
    set({ timed: timed.map((one, place) => (place === index ? { ...one, ...change } : one)) });
  return (
    <section>
      <h2 className="eyebrow mb-2">What it does all day: this will be timed</h2>
      <ol className="card space-y-2 p-3!">
        {timed.map((one, index) => (
          <TimedRow
            key={one.workload}
            number={index + 1}
            timed={one}
            problem={at(`timed.${index}.name`, `timed.${index}.measure.name`)}
            onChange={(change) => edit(index, change)}
            {...(index > 0 && {
              onRemove: () => set({ timed: timed.filter((_, place) => place !== index) }),
            })}
          />
        ))}
      </ol>
      <div className="mt-2 flex flex-wrap gap-x-5">
        <Button look="quiet" onClick={() => set({ timed: [...timed, emptyTimed()] })}>
          + another task
        </Button>
        <Button look="quiet" onClick={() => set({ timed: [...timed, emptyTimed("control", "rate")] })}>
          + one that should not move
        </Button>
      </div>
      {!hasControl && (
        <p className="text-sm text-soft">
          No <Term name="control" />: a task that the change can’t touch would tell whether the machine itself
          moved.
        </p>
      )}
    </section>
  );
}

function Ways({ isSending, onQuick }: { isSending: boolean; onQuick: () => void }) {
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
      <Button look="main" type="submit" disabled={isSending}>
        Go and measure <span aria-hidden>↵</span>
      </Button>
      <Button look="quiet" disabled={isSending} onClick={onQuick}>
        Quick look instead: a quarter of an hour
      </Button>
      <ButtonLink look="quiet" to="/machines/new">
        Describe the parts first
      </ButtonLink>
      <ButtonLink look="quiet" to="/columns">
        Only two columns of figures
      </ButtonLink>
    </div>
  );
}

const FIGURE_CHOICES = (Object.keys(FIGURES) as FigureName[]).map((name) => [name, FIGURES[name]] as const);

interface TimedProps {
  number: number;
  timed: TimedDraft;
  problem: string | undefined;
  onChange: (change: Partial<TimedDraft>) => void;
  onRemove?: () => void;
}

function TimedRow({ number, timed, problem, onChange, onRemove }: TimedProps) {
  return (
    <li className="grid grid-cols-[1.5rem_1fr_8rem] items-start gap-2 md:grid-cols-[1.5rem_1fr_8rem_11.5rem_5rem]">
      <span className="pt-2.5 font-semibold">{number}</span>
      <TextField
        label={`Task ${number}`}
        hideLabel
        placeholder={
          timed.purpose === "control" ? "e.g. long read of the drive" : "e.g. render the day’s tiles"
        }
        value={timed.name}
        problem={problem}
        onChange={(name) => onChange({ name })}
      />
      <ChoiceField
        label={`Task ${number} is read in`}
        hideLabel
        value={timed.figure}
        choices={FIGURE_CHOICES}
        onChange={(figure) => onChange({ figure })}
      />
      {onRemove ? (
        <>
          <ChoiceField
            label={`Task ${number} is for`}
            hideLabel
            value={timed.purpose}
            choices={[
              ["watch", "looked at"],
              ["control", "should not move"],
              ["claim", "a claim too"],
            ]}
            onChange={(purpose) => onChange({ purpose })}
          />
          <Button look="quiet" aria-label={`Take task ${number} out`} onClick={onRemove}>
            Take out
          </Button>
        </>
      ) : (
        <span className="self-center justify-self-start rounded-md border border-ink px-3 py-1 font-semibold">
          decides
        </span>
      )}
    </li>
  );
}

const BUNDLE =
  "Several changes at once can’t be told apart: the verdict belongs to the bundle. In steps, each has its own.";

interface PlanProps {
  draft: StartDraft;
  problems: Problems;
  onSet: (change: Partial<StartDraft>) => void;
}

/** The plan in three sentences, each with a way to change it. */
function PlanInSentences({ draft, problems, onSet }: PlanProps) {
  const along = useTemplates().find(({ change }) => change === draft.change)?.advice ?? BUNDLE;
  return (
    <aside className="space-y-4 border-line bg-card p-6 xl:min-h-[calc(100vh-3.5rem)] xl:border-l">
      <h2 className="eyebrow">The plan, in three sentences</h2>
      <Amount draft={draft} problems={problems} onSet={onSet} />
      <Margin draft={draft} problems={problems} onSet={onSet} />
      <p>
        What that finds shows after two sittings, from this machine’s own scatter. The old part stays in until
        the baseline is whole.
      </p>
      <Note>{along}</Note>
      <Money draft={draft} onSet={onSet} />
    </aside>
  );
}

function Amount({ draft, problems, onSet }: PlanProps) {
  const [amount, rest] = sayAmount(draft);
  const field = bind(draft, onSet, (name) => problems[name]);
  return (
    <Sentence
      sentence={
        <>
          <b className="font-semibold">{amount}</b>, {rest} <Term name="sitting">A sitting?</Term>
        </>
      }
      about="how much is measured"
      isOpen={Boolean(problems["sittings"] ?? problems["runs"])}
    >
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Sittings a side" inputMode="decimal" {...field("sittings")} />
        <TextField label="Runs a sitting" inputMode="decimal" {...field("runs")} />
      </div>
    </Sentence>
  );
}

function Margin({ draft, problems, onSet }: PlanProps) {
  const { margins } = useVocabulary();
  const more = isWork(MEASURE_KINDS[draft.timed[0]?.figure ?? "time"]) ? " more speed" : "";
  const unit = marginUnit(draft);
  const field = bind(draft, onSet, (name) => problems[name]);
  return (
    <Sentence
      sentence={
        <>
          It <Term name="matters from">counts from</Term>{" "}
          <b className="font-semibold">{sayMargin(draft, margins)}</b> on
          {draft.hoped.trim() ? `; hoped for are ${draft.hoped} ${unit}${more}.` : ", whatever is hoped for."}
        </>
      }
      about="from what on it counts"
      isOpen={Boolean(problems["matters"] ?? problems["hoped"])}
    >
      <div className="grid grid-cols-2 gap-3">
        <TextField label={`Matters from, ${unit}`} inputMode="decimal" {...field("matters")} />
        <TextField label={`Hoped for, ${unit}${more}`} inputMode="decimal" {...field("hoped")} />
      </div>
    </Sentence>
  );
}

function Money({ draft, onSet }: Pick<PlanProps, "draft" | "onSet">) {
  const field = bind(draft, onSet);
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center text-soft">
        Money in {draft.currency}, decimal {draft.mark === "." ? "point" : "comma"} · change
      </summary>
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Currency" maxLength={3} {...field("currency")} />
        <ChoiceField label="Decimal mark" choices={DECIMAL_MARKS} {...field("mark")} />
      </div>
    </details>
  );
}

interface SentenceProps {
  sentence: React.ReactNode;
  about: string;
  isOpen: boolean;
  children: React.ReactNode;
}

function Sentence({ sentence, about, isOpen, children }: SentenceProps) {
  const [open, setOpen] = useState(false);
  return (
    <div>
      <p>
        {sentence}{" "}
        <button
          type="button"
          aria-label={`Change ${about}`}
          aria-expanded={open || isOpen}
          className="min-h-6 font-semibold underline underline-offset-4"
          onClick={() => setOpen(!open)}
        >
          change
        </button>
      </p>
      {(open || isOpen) && <div className="mt-2">{children}</div>}
    </div>
  );
}
