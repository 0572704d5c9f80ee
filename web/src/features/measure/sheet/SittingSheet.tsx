import { useQuery } from "@tanstack/react-query";
import { type MouseEvent, type RefObject, useEffect, useRef, useState } from "react";

import {
  type Case,
  type Doubt,
  putRunPicture,
  type Run,
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
import { useSheet } from "./useSheet";

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
  const { job, runs, sitting, workload, queue, doubts, arrivingRef, onChoose, onBegin, onTyping } = props;
  const [opened, setOpened] = useState<Opened | null>(null);
  // Known before the dialog takes the cursor: what becomes of a run is saved with its figures, not after them.
  const asking = useRef<number | null>(null);
  const open = (next: Opened | null) => {
    asking.current = next?.position ?? null;
    setOpened(next);
  };
  const [held, setHeld] = useState<number | null>(null);
  const [mended, setMended] = useState<number | null>(null);
  const [series, setSeries] = useState<Series | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
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
  const beside = useRuns(
    job.machine.id,
    isLabelled ? { build: swap ? [swap.before, swap.after] : [sitting.build] } : {},
  );
  const usual = (row: Row): Noted => {
    const label = usualLabel(beside, workload.name, sitting.id, row.position);
    return { ...timers.noted(), ...(label && { pair_label: label }) };
  };
  const { data: pictures = [] } = useQuery(picturesQuery(job.machine.id, sitting.id));
  const pictured = pictures.map(({ run }) => run);
  const photos = new Map(
    pictures.flatMap(({ run, waits }) =>
      waits?.workload === workload.id && !waits.warm_up ? [[waits.position, run] as const] : [],
    ),
  );
  const sheet = useSheet(job, runs, sitting, workload, all, measures, usual, photos);
  const planned = runsPlanned(plan, workload);
  const isHere = (row: Unsent) => row.sitting === sitting.id && row.workload === workload.id;
  const elsewhere = useUnsent(job.sittings.map(({ id }) => id)).filter(
    (row) => isTooLate(job, row) || (!isHere(row) && !isGoing(row)),
  );
  const isOpen = sitting.closed_at === null;
  // What is being typed stays under the hands, whatever another device does to the sitting meanwhile.
  const next = isOpen || held !== null ? nextRow(sheet.rows, held, mended, planned) : undefined;
  const waiting = sheet.rows.filter(({ photo }) => photo).length;
  const queued = queue.find((known) => known.workload.id === workload.id);
  const [timed, setTimed] = useState<{ row: Row; run: string } | null>(null);
  const openOverTime = (row: Row) => {
    open(null);
    setTimed({ row, run: row.run?.id ?? sheet.idOf(row.position) });
  };
  const marked = sheet.rows.find((row) => row.position === opened?.position);
  const setMarking = (position: number) => open({ position, isMark: true });
  const isDone = (queued?.done ?? 0) >= planned;
  const failed = queued?.failed ?? 0;
  useKeys({ x: () => setMarking(sheet.rows.findLast((row) => row.run ?? row.entry)?.position ?? 1) });
  const position = next?.position;
  useEffect(() => {
    if (!arrivingRef.current) return;
    // A dialog that has just gone gives the cursor back to where it was opened from; only then it is taken.
    const timer = setTimeout(() => {
      arrivingRef.current = false;
      if (position !== undefined) focusRow(position);
    }, SOON_MS);
    return () => clearTimeout(timer);
  }, [arrivingRef, position]);
  const onEntered = (entered: number) => {
    if (sheet.countNow(entered) < planned) return;
    const following = nextInQueue(withTyped(queue, sitting.id), workload);
    if (following) onChoose(following.id);
    else document.getElementById("sitting-done")?.focus();
  };
  const cells = {
    job,
    sheet,
    measures,
    onLeave: (position: number) => {
      if (asking.current !== position) sheet.commit(position);
    },
    onRefusal: setRefusal,
    onSeries: setSeries,
    onEntered,
    onHold: setHeld,
    onMend: setMended,
  };
  return (
    <section className="min-w-0 p-5">
      <h1 className="lead mb-1">{queued && sayPlace(queued, next, isOpen, waiting)}</h1>
      <p className="mb-4 max-w-3xl text-soft">{sayCard(workload)}</p>
      {sheet.isLost && (
        <div className="mb-3">
          <Note alert>
            <b className="font-semibold">The server does not answer.</b> Type on: everything is kept in this
            browser and sent by itself when the server is back.
          </Note>
        </div>
      )}
      <div className="mb-3 empty:hidden">
        <UnsentNote job={job} unsent={elsewhere} lead="Typed, and not saved yet:" />
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
        {next && (
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
        )}
        {next && !isDone && (
          <Outcomes
            name={rowName(next).toLowerCase()}
            onOutcome={(state, reason) => {
              sheet.mark(next.position, state, reason);
              setHeld(null);
              arrivingRef.current = true;
            }}
            onMore={() => setMarking(next.position)}
          />
        )}
        {next && !next.run && !isDone && (
          <PhotoFirst
            job={job}
            row={next}
            onChoose={(picture) =>
              putRunPicture(job.machine.id, sheet.idOf(next.position), picture, {
                sitting: sitting.id,
                workload: workload.id,
                position: next.position,
              })
            }
          />
        )}
        {next && !isDone && isSensed(workload, all) && (
          <Button look="quiet" onClick={() => openOverTime(next)}>
            Read it over time: at minute marks, or from a sensor log
          </Button>
        )}
        {failed > 0 && !isDone && isOpen && (
          <p className="mt-3 font-medium">
            {failed === 1 ? "One run gave no figure" : `${failed} runs gave no figure`}. Repeat until{" "}
            {planned} count: a sitting with fewer cuts every other one to as many.
          </p>
        )}
        {series && (
          <SeriesAsked
            series={series}
            onDone={() => {
              setSeries(null);
              if (position !== undefined) focusRow(position);
            }}
          />
        )}
        {refusal && (
          <div className="mt-2">
            <Note alert>{refusal}</Note>
          </div>
        )}
        <SoFar job={job} runs={runs} sitting={sitting} workload={workload} />
        <div className="mt-4">
          <RunSheet
            workload={workload.name}
            pictured={pictured}
            rows={otherRows(sheet.rows, next)}
            onMark={setMarking}
            onMore={(position) => open({ position, isMark: false })}
            {...cells}
          />
        </div>
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button disabled={!sheet.canUndo} onClick={sheet.undo}>
          Undo <kbd className="font-sans text-sm text-soft">Ctrl Z</kbd>
        </Button>
        <p className="text-soft">
          Enter moves on. A column or block from a spreadsheet can be pasted into any field. Times may be
          typed as 1:52{job.machine.decimal_mark}4.
          {plan.warm_ups > 0 && " Warm-up runs are kept and never counted."}
        </p>
      </div>
      {timed && (
        <OverTime
          job={job}
          sitting={sitting}
          workload={workload}
          measures={all}
          row={timed.row}
          run={timed.run}
          onClose={() => setTimed(null)}
          onKept={() => {
            setTimed(null);
            if (!timed.row.run) void sheet.record(timed.row.position);
          }}
        />
      )}
      {marked && (
        <RowDialog
          job={job}
          row={marked}
          workload={workload}
          measures={measures}
          isMark={opened?.isMark ?? true}
          hasPicture={pictured.includes(marked.run?.id ?? "")}
          onClose={() => {
            open(null);
            sheet.commit(marked.position);
          }}
          onOverTime={isSensed(workload, all) ? () => openOverTime(marked) : undefined}
          onSave={(amended) => {
            sheet.amend(marked.position, amended);
            open(null);
          }}
        />
      )}
    </section>
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

/** How the job is done, in its own words; else its parameters. */
function sayCard(workload: Workload): string {
  const parameters = Object.entries(workload.parameters).map(([name, value]) => `${name} ${value}`);
  const target = workload.target ? [`on ${workload.target}`] : [];
  return [workload.card, [...parameters, ...target].join(", ")].filter(Boolean).join(" · ");
}
