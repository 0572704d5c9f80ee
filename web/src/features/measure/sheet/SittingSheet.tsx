import { useQuery } from "@tanstack/react-query";
import { type MouseEvent, type RefObject, useEffect, useRef, useState } from "react";

import {
  call,
  type Case,
  type Doubt,
  type Plan,
  type Run,
  type RunPicture,
  type Sitting,
  type Workload,
} from "../../../api/client";
import { useKeys } from "../../../lib/keys";
import { Button } from "../../../ui/Button";
import { Note } from "../../../ui/Note";
import { isRead } from "../../../job/kinds";
import { picturesQuery, useRuns } from "../../../job/api";
import { isEmptied, measuresOf, planFor, swapOf } from "../../../job/model";
import { type Row, rowName, runsPlanned, type Noted } from "../../../job/rows";
import type { Unsent } from "../../../job/desk";
import { isGoing, useUnsent } from "../../../job/unsent";
import { isTooLate, UnsentNote } from "../../../job/UnsentNote";
import { focusRow, type Series } from "./Cell";
import { Done } from "../sitting/Done";
import { Doubts } from "./Doubts";
import { isAsked, nextInQueue, nextRow, otherRows, type Queued, sayPlace } from "../model";
import { NextRun } from "./NextRun";
import { Outcomes } from "./Outcomes";
import { OverTime } from "../overtime/OverTime";
import { isSensed } from "../overtime/overTime";
import { PhotoFirst } from "./PhotoFirst";
import { RowDialog } from "./RowDialog";
import { RunSheet } from "./RunSheet";
import { SeriesAsked } from "./SeriesAsked";
import { SoFar } from "./SoFar";
import { usualLabel } from "./notes";
import { Timers, useTimers } from "../sitting/Timers";
import { withTyped } from "../sitting/useQueue";
import { type Sheet, useSheet } from "./useSheet";

interface Props {
  job: Case;
  runs: Run[];
  sitting: Sitting;
  workload: Workload;
  queue: Queued[];
  doubts: Doubt[];
  /** Whether the cursor is to go to the first empty field once this sheet is there. */
  arrivingRef: RefObject<boolean>;
  onChoose: (workload: string) => void;
  onBegin: (build: string) => void;
  onTyping: () => void;
}

/** One workload of a sitting: the next reading large, what is there so far below it. */
export function SittingSheet(props: Props) {
  const { job, runs, sitting, workload, doubts, onTyping } = props;
  const known = useEntering(props);
  const { plan, made, timers, sheet, next, queued, waiting, isOpen } = known;
  const asked = useAsked(sheet);
  const [series, setSeries] = useState<Series | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  useKeys({ x: () => asked.mark(sheet.rows.findLast((row) => row.run ?? row.entry)?.position ?? 1) });
  useArriving(props.arrivingRef, next?.position);
  const cells = { ...cellsOf(props, known, asked), onRefusal: setRefusal, onSeries: setSeries };
  const all = { ...props, known, asked, cells };
  return (
    <section className="min-w-0 p-5">
      <h1 className="lead mb-1">{queued && sayPlace(queued, next, isOpen, waiting)}</h1>
      <p className="mb-4 max-w-3xl text-soft">{sayCard(workload)}</p>
      {sheet.isLost && <LostNote />}
      <div className="mb-3 empty:hidden">
        <UnsentNote job={job} unsent={known.elsewhere} lead="Typed, and not saved yet:" />
      </div>
      <Doubts
        job={job}
        runs={runs}
        doubts={doubts.filter(({ run }) => made.some(({ id }) => id === run))}
        sheet={sheet}
      />
      <Timers plan={plan} timers={timers} runs={made.length} />
      {/* A sitting that another device begins must not slip under the hands of who types here. */}
      <div onFocus={onTyping} onMouseDown={keepCursor}>
        {next && <Next {...all} next={next} />}
        <Repeat known={known} />
        {series && (
          <SeriesAsked
            series={series}
            onDone={() => {
              setSeries(null);
              if (next) focusRow(next.position);
            }}
          />
        )}
        <div className="mt-2 empty:hidden">{refusal && <Note alert>{refusal}</Note>}</div>
        <SoFar job={job} runs={runs} sitting={sitting} workload={workload} />
        <div className="mt-4">
          <RunSheet
            workload={workload.name}
            pictured={known.pictured}
            rows={otherRows(sheet.rows, next)}
            onMark={asked.mark}
            onMore={asked.more}
            {...cells}
          />
        </div>
      </div>
      <Beneath job={job} plan={plan} sheet={sheet} />
      <Dialogs {...all} />
    </section>
  );
}

/** What is recorded and typed of the workload, which row is next, and what is still missing. */
function useEntering({ job, runs, sitting, workload, queue }: Props) {
  const [held, setHeld] = useState<number | null>(null);
  const [mended, setMended] = useState<number | null>(null);
  const all = measuresOf(job, workload.name);
  const plan = planFor(job, sitting.build);
  const made = runs.filter((run) => run.workload === workload.name && !isEmptied(run));
  const measures = all.filter(
    (measure) =>
      isRead(measure, all) && (isAsked(measure, plan) || made.some(({ readings }) => measure.id in readings)),
  );
  const timers = useTimers(plan, sitting.id, made.length);
  const isLabelled = plan.pair_by === "label";
  const swap = swapOf(job, sitting.build);
  const both = swap ? [swap.before, swap.after] : [sitting.build];
  const beside = useRuns(job.machine.id, isLabelled ? { build: both } : {});
  const usual = (row: Row): Noted => {
    const label = usualLabel(beside, workload.name, sitting.id, row.position);
    return { ...timers.noted(), ...(label && { pair_label: label }) };
  };
  const { data: pictures = [] } = useQuery(picturesQuery(job.machine.id, sitting.id));
  const photos = photosOf(pictures, workload);
  const of = { job, recorded: runs, sitting, workload, measures: all, columns: measures, usual, photos };
  const sheet = useSheet(of);
  const planned = runsPlanned(plan, workload);
  const isHere = (row: Unsent) => row.sitting === sitting.id && row.workload === workload.id;
  const elsewhere = useUnsent(job.sittings.map(({ id }) => id)).filter(
    (row) => isTooLate(job, row) || (!isHere(row) && !isGoing(row)),
  );
  const isOpen = sitting.closed_at === null;
  // What is being typed stays under the hands, whatever another device does to the sitting meanwhile.
  const next = isOpen || held !== null ? nextRow(sheet.rows, held, mended, planned) : undefined;
  const queued = queue.find((each) => each.workload.id === workload.id);
  return {
    ...{ all, plan, made, measures, timers, sheet, planned, next, queued, isOpen, elsewhere, usual },
    ...{ setHeld, setMended, isLabelled },
    pictured: pictures.map(({ run }) => run),
    waiting: sheet.rows.filter(({ photo }) => photo).length,
    isDone: (queued?.done ?? 0) >= planned,
    failed: queued?.failed ?? 0,
  };
}

type Known = ReturnType<typeof useEntering>;

/** By position the runs whose figure is to be read off a photo. */
const photosOf = (pictures: readonly RunPicture[], workload: Workload): Map<number, string> =>
  new Map(
    pictures.flatMap(({ run, waits }) =>
      waits?.workload === workload.id && !waits.warm_up ? [[waits.position, run] as const] : [],
    ),
  );

/** Which dialog is open: of a row, or of its readings over time. */
function useAsked(sheet: Sheet) {
  const [opened, setOpened] = useState<Opened | null>(null);
  const [timed, setTimed] = useState<{ row: Row; run: string } | null>(null);
  // Known before the dialog takes the cursor: what becomes of a run is saved with its figures, not after them.
  const asking = useRef<number | null>(null);
  const open = (next: Opened | null) => {
    asking.current = next?.position ?? null;
    setOpened(next);
  };
  return {
    opened,
    timed,
    mark: (position: number) => open({ position, isMark: true }),
    more: (position: number) => open({ position, isMark: false }),
    close: () => open(null),
    overTime: (row: Row) => {
      open(null);
      setTimed({ row, run: row.run?.id ?? sheet.idOf(row.position) });
    },
    overTimeDone: () => setTimed(null),
    isAskedOf: (position: number) => asking.current === position,
  };
}

type AskedOf = ReturnType<typeof useAsked>;

/** Takes the cursor to the next row once, after whatever was open is gone. */
function useArriving(arrivingRef: RefObject<boolean>, position: number | undefined): void {
  useEffect(() => {
    if (!arrivingRef.current) return;
    // A dialog that has just gone gives the cursor back to where it was opened from; only then it is taken.
    const timer = setTimeout(() => {
      arrivingRef.current = false;
      if (position !== undefined) focusRow(position);
    }, SOON_MS);
    return () => clearTimeout(timer);
  }, [arrivingRef, position]);
}

/** What every cell of the sheet is told, and what it tells. */
function cellsOf({ job, sitting, workload, queue, onChoose }: Props, known: Known, asked: AskedOf) {
  const { sheet, measures, planned } = known;
  return {
    job,
    sheet,
    measures,
    onLeave: (position: number) => {
      if (!asked.isAskedOf(position)) sheet.commit(position);
    },
    onEntered: (entered: number) => {
      if (sheet.countNow(entered) < planned) return;
      const following = nextInQueue(withTyped(queue, sitting.id), workload);
      if (following) onChoose(following.id);
      else document.getElementById("sitting-done")?.focus();
    },
    onHold: known.setHeld,
    onMend: known.setMended,
  };
}

interface Parts extends Props {
  known: Known;
  asked: AskedOf;
  cells: ReturnType<typeof cellsOf> & {
    onRefusal: (refusal: string | null) => void;
    onSeries: (series: Series | null) => void;
  };
}

/** The row that is next, and what else may become of it than a figure. */
function Next({ next, known, asked, cells, ...props }: Parts & { next: Row }) {
  const { job, sitting, workload, queue, doubts, arrivingRef, onBegin } = props;
  const { sheet, isDone, isLabelled, usual } = known;
  return (
    <>
      <NextRun row={next} isDone={isDone} label={isLabelled ? labelOf(next, usual) : null} {...cells}>
        <Done
          job={job}
          sitting={sitting}
          queue={queue}
          doubts={doubts}
          onLeave={() => sheet.commit(next.position)}
          onBegin={onBegin}
        />
      </NextRun>
      {!isDone && (
        <Outcomes
          name={rowName(next).toLowerCase()}
          onOutcome={(state, reason) => {
            sheet.mark(next.position, state, reason);
            known.setHeld(null);
            arrivingRef.current = true;
          }}
          onMore={() => asked.mark(next.position)}
        />
      )}
      {!next.run && !isDone && (
        <PhotoFirst
          job={job}
          row={next}
          onChoose={(picture) => {
            const { position } = next;
            const place = { sitting: sitting.id, workload: workload.id, position };
            return call(
              "put",
              "/api/machines/{machine_id}/runs/{run_id}/picture",
              { machine_id: job.machine.id, run_id: sheet.idOf(position) },
              picture,
              place,
            );
          }}
        />
      )}
      {!isDone && isSensed(workload, known.all) && (
        <Button look="quiet" onClick={() => asked.overTime(next)}>
          Read it over time: at minute marks, or from a sensor log
        </Button>
      )}
    </>
  );
}

function Repeat({ known: { failed, isDone, isOpen, planned } }: { known: Known }) {
  if (failed === 0 || isDone || !isOpen) return null;
  return (
    <p className="mt-3 font-medium">
      {failed === 1 ? "One run gave no figure" : `${failed} runs gave no figure`}. Repeat until {planned}{" "}
      count: a sitting with fewer cuts every other one to as many.
    </p>
  );
}

const LostNote = () => (
  <div className="mb-3">
    <Note alert>
      <b className="font-semibold">The server does not answer.</b> Type on: everything is kept in this browser
      and sent by itself when the server is back.
    </Note>
  </div>
);

function Beneath({ job, plan, sheet }: { job: Case; plan: Plan; sheet: Sheet }) {
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3">
      <Button disabled={!sheet.canUndo} onClick={sheet.undo}>
        Undo <kbd className="font-sans text-sm text-soft">Ctrl Z</kbd>
      </Button>
      <p className="text-soft">
        Enter moves on. A column or block from a spreadsheet can be pasted into any field. Times may be typed
        as 1:52{job.machine.decimal_mark}4.
        {plan.warm_ups > 0 && " Warm-up runs are kept and never counted."}
      </p>
    </div>
  );
}

function Dialogs({ job, sitting, workload, known, asked }: Parts) {
  const { sheet, all, measures, pictured } = known;
  const { opened, timed } = asked;
  const marked = sheet.rows.find((row) => row.position === opened?.position);
  return (
    <>
      {timed && (
        <OverTime
          {...{ job, sitting, workload }}
          measures={all}
          row={timed.row}
          run={timed.run}
          onClose={asked.overTimeDone}
          onKept={() => {
            asked.overTimeDone();
            if (!timed.row.run) void sheet.record(timed.row.position);
          }}
        />
      )}
      {marked && (
        <RowDialog
          {...{ job, workload, measures }}
          row={marked}
          isMark={opened?.isMark ?? true}
          hasPicture={pictured.includes(marked.run?.id ?? "")}
          onClose={() => {
            asked.close();
            sheet.commit(marked.position);
          }}
          onOverTime={isSensed(workload, all) ? () => asked.overTime(marked) : undefined}
          onSave={(amended) => {
            sheet.amend(marked.position, amended);
            asked.close();
          }}
        />
      )}
    </>
  );
}

const SOON_MS = 80;

/** What is asked in the dialog of a row: what went wrong, or what belongs to it. */
interface Opened {
  position: number;
  isMark: boolean;
}

/**
 * A button that is pressed leaves the cursor in its field until the click has landed: to leave a field saves its run and
 * moves on, so that the button would slip away from under the finger, or mean the next run.
 */
function keepCursor(event: MouseEvent<HTMLElement>): void {
  if (event.target instanceof Element && event.target.closest("button")) event.preventDefault();
}

const labelOf = (row: Row, usual: (row: Row) => Noted): string =>
  row.entry?.noted.pair_label ?? row.run?.pair_label ?? usual(row).pair_label ?? "";

/** How the task is done, in its own words; else its parameters. */
function sayCard(workload: Workload): string {
  const parameters = Object.entries(workload.parameters).map(([name, value]) => `${name} ${value}`);
  const target = workload.target ? [`on ${workload.target}`] : [];
  return [workload.card, [...parameters, ...target].join(", ")].filter(Boolean).join(" · ");
}
