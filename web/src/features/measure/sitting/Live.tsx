import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useMemo, useState } from "react";

import type { Case, Live as LiveRun } from "../../../api/client";
import type { PlotLine } from "../../../charts/TracePlot";
import { Button } from "../../../ui/Button";
import type { DecimalMark } from "../../../lib/number";
import { TableToTake } from "../../../ui/TakeAlong";
import { Note } from "../../../ui/Note";
import { liveQuery } from "../../../job/api";
import { levelAt, minutesOf, readOff } from "./live";

const TracePlot = lazy(() => import("../../../charts/TracePlot"));

/** By so much the arrow keys move the moment that is read off. */
const STEP_S = 15;

const NAMES: Record<string, string> = {
  temperature: "Temperature",
  clock: "Clock",
  power: "Power",
  fan: "Fan",
  load: "Load",
};

/** The run that lasts on a machine, if one does. */
export function useLive(job: Case): LiveRun | null {
  const { data } = useQuery({ ...liveQuery(job.machine.id), enabled: job.lasting !== null });
  return job.lasting === null ? null : (data ?? null);
}

interface Props {
  job: Case;
  live: LiveRun;
  /** Puts the run sheet in its place. */
  onType: () => void;
}

/** A run while it lasts: against the other side at the same minute, what departs, and what it would be spoiled by. */
export function Live({ job, live, onType }: Props) {
  const { worded } = live;
  const hasCurves = (live.runs[0]?.curves.length ?? 0) > 0;
  return (
    <section className="grid min-w-0 gap-5 p-5 lg:grid-cols-[1fr_18rem]" aria-label="The run that lasts">
      <div className="min-w-0">
        <h1 className="lead mb-1">{worded.lead}</h1>
        <p className="mb-3 text-soft">{worded.beneath}</p>
        {hasCurves ? (
          <>
            <Legend live={live} />
            <Curves live={live} mark={job.machine.decimal_mark} />
          </>
        ) : (
          <Note>No sensor has told anything yet.</Note>
        )}
        <details className="mt-2">
          <summary className="flex min-h-11 cursor-pointer items-center text-soft">
            The same as a table, minute by minute
          </summary>
          <MinuteTable job={job} live={live} />
        </details>
      </div>
      <Beside live={live} onType={onType} />
    </section>
  );
}

/** The lines of each role, the run that lasts on top. */
const linesOf = (runs: LiveRun["runs"], roles: string[]): Map<string, PlotLine[]> => {
  const drawn = (role: string): PlotLine[] =>
    runs
      .flatMap((run, place): PlotLine[] => {
        const curve = run.curves.find((known) => known.role === role);
        if (!curve) return [];
        const name = place === 0 ? "this run" : `build ${run.build}, run ${run.position}`;
        // The run that lasts is always drawn as the after-side where the other one stands before it, and thick.
        return [{ name, tone: run.is_other ? "before" : "after", isThin: place > 0, curve }];
      })
      .reverse();
  return new Map(roles.map((role) => [role, drawn(role)]));
};

/** A plot a sensor, one beneath the other, and the moment that is read off all of them. */
function Curves({ live, mark }: { live: LiveRun; mark: DecimalMark }) {
  const { runs, above_room } = live;
  const [cursor, setCursor] = useState<number | null>(null);
  const roles = runs[0]?.curves.map(({ role }) => role) ?? [];
  const lengthS = Math.max(60, ...runs.flatMap(({ curves }) => curves.map(({ at }) => at.at(-1) ?? 0)));
  // eslint-disable-next-line react-hooks/exhaustive-deps -- the roles are those of the runs
  const lines = useMemo(() => linesOf(runs, roles), [runs]);
  return (
    <>
      <Suspense fallback={<p className="text-soft">Drawing…</p>}>
        {roles.map((role, place) => (
          <figure key={role} className="mb-1">
            <figcaption className="text-sm text-soft">
              {role === "temperature" && above_room ? "K above the room" : caption(live, role)}
            </figcaption>
            <TracePlot
              lines={lines.get(role) ?? []}
              height={place === 0 ? 250 : 84}
              label={`${NAMES[role] ?? role} against minutes`}
              unit={runs[0]?.curves.find((curve) => curve.role === role)?.unit ?? ""}
              lengthS={lengthS}
              cursor={cursor}
              onCursor={setCursor}
              hasMinutes={place === roles.length - 1}
            />
          </figure>
        ))}
      </Suspense>
      <div className="mt-1 text-sm text-soft">
        <input
          type="range"
          className="block h-11 w-full accent-ink"
          aria-label="Moment that is read off"
          min={0}
          max={lengthS}
          step={STEP_S}
          value={cursor ?? lengthS}
          aria-valuetext={sayCursor(live, cursor, mark)}
          onChange={(event) => setCursor(Number(event.target.value))}
        />
        <p>{sayCursor(live, cursor, mark)}</p>
      </div>
    </>
  );
}

/** What the sensors tell now, what departs from the other side, and what would spoil the run. */
function Beside({ live: { worded, runs }, onType }: { live: LiveRun; onType: () => void }) {
  const hasOther = runs.some(({ is_other }) => is_other);
  return (
    <aside className="space-y-4">
      <section>
        <h2 className="eyebrow mb-2">
          Now{hasOther && `, against the other side at minute ${worded.minute}`}
        </h2>
        <dl className="grid grid-cols-[auto_1fr] gap-x-3 gap-y-1.5">
          {worded.now.map((line) => (
            <div key={line.what} className="contents">
              <dt className="text-soft">{line.what}</dt>
              <dd>
                <b className="font-semibold">{line.now}</b> <span className="text-soft">{line.beside}</span>
              </dd>
            </div>
          ))}
        </dl>
      </section>
      {worded.departs.length > 0 && (
        <Note>
          <Lines texts={worded.departs} />
        </Note>
      )}
      <section>
        <h2 className="eyebrow mb-2">What would spoil it</h2>
        <Lines texts={worded.spoils} />
        {worded.held && <p className="mt-2 text-sm text-soft">Held as planned: {worded.held}.</p>}
      </section>
      <p className="text-sm text-soft">
        To stop the run, press Ctrl-C where the agent runs: what was measured by then is kept.
      </p>
      <Button onClick={onType}>Type instead</Button>
    </aside>
  );
}

function Lines({ texts }: { texts: string[] }) {
  return (
    <ul className="space-y-1">
      {texts.map((text) => (
        <li key={text}>{text}</li>
      ))}
    </ul>
  );
}

/** Which line is which, in words beside a piece of it. */
function Legend({ live: { runs } }: { live: LiveRun }) {
  const [this_, ...earlier] = runs;
  const other = earlier.find(({ is_other }) => is_other);
  const own = earlier.some(({ is_other }) => !is_other);
  const lines = [
    this_ && (["h-1 bg-after", "this run"] as const),
    own && (["h-0.5 bg-after", `earlier runs of build ${this_?.build}`] as const),
    other && (["h-0.5 bg-before", `build ${other.build}, the other side`] as const),
  ].filter((line) => line !== undefined && line !== false);
  return (
    <ul className="mb-2 flex flex-wrap gap-x-5 text-sm text-soft">
      {lines.map(([look, name]) => (
        <li key={name} className="flex items-center gap-2">
          <span aria-hidden className={`inline-block w-7 ${look}`} />
          {name}
        </li>
      ))}
    </ul>
  );
}

const caption = ({ runs }: LiveRun, role: string): string => {
  const curve = runs[0]?.curves.find((known) => known.role === role);
  return curve ? `${NAMES[role] ?? role}, ${curve.unit} (${curve.sensor})` : "";
};

/** What both sides read under the cursor. */
function sayCursor(live: LiveRun, cursor: number | null, mark: DecimalMark): string {
  if (cursor === null) return "Point at a curve, or move this, to read both sides.";
  const read = (isOther: boolean) =>
    live.runs
      .filter((run, place) => (isOther ? run.is_other : place === 0))
      .flatMap(({ curves }) => curves.slice(0, 1))
      .map((curve) => levelAt(curve, cursor))
      .filter((level) => level !== null);
  const [here] = read(false);
  const there = read(true);
  const unit = live.runs[0]?.curves[0]?.unit ?? "";
  const worded = (level: number | undefined) =>
    level === undefined ? "nothing" : `${readOff(level, mark)} ${unit}`;
  const mean = there.length > 0 ? there.reduce((sum, level) => sum + level, 0) / there.length : undefined;
  const minute = `${Math.floor(cursor / 60)}:${String(Math.floor(cursor % 60)).padStart(2, "0")}`;
  return `At ${minute} min: this run ${worded(here)}, the other side ${worded(mean)}.`;
}

function MinuteTable({ job, live }: { job: Case; live: LiveRun }) {
  const mark = job.machine.decimal_mark;
  const shown = live.runs.filter(({ is_other }, place) => is_other || place === 0);
  const roles = live.runs[0]?.curves ?? [];
  return (
    <TableToTake name={`${job.machine.name}, the run that lasts`}>
      <div className="overflow-x-auto" tabIndex={0} role="group" aria-label="Minute by minute">
        <table className="w-full text-sm">
          <thead className="text-left text-soft">
            <tr className="border-b border-line">
              <th className="pr-2 font-medium">Minute</th>
              {shown.flatMap((run, place) =>
                roles.map(({ role, unit }) => (
                  <th key={run.run + role} className="px-2 text-right font-medium">
                    {place === 0 ? "this run" : `${run.build}, run ${run.position}`}: {NAMES[role] ?? role},{" "}
                    {unit}
                  </th>
                )),
              )}
            </tr>
          </thead>
          <tbody>
            {minutesOf(live).map((minute) => (
              <tr key={minute} className="border-b border-line">
                <th scope="row" className="pr-2 text-left font-normal">
                  {minute}
                </th>
                {shown.flatMap((run) =>
                  roles.map(({ role }) => {
                    const curve = run.curves.find((known) => known.role === role);
                    const level = curve ? levelAt(curve, minute * 60) : null;
                    return (
                      <td key={run.run + role} className="px-2 text-right">
                        {level === null ? "–" : readOff(level, mark)}
                      </td>
                    );
                  }),
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </TableToTake>
  );
}
