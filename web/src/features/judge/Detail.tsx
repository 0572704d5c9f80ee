import type { Comparison, Measure, MeasureResult, Worded } from "../../api/client";
import { PairDots } from "../../charts/PairDots";
import { Note } from "../../ui/Note";
import { ChartToTake } from "../../ui/TakeAlong";
import { Verdict, verdictWord } from "../../ui/Verdict";
import type { MachineRecord } from "../../job/api";
import { ForTheNext } from "./Figures";
import { LeaveOut } from "./LeaveOut";
import { dotsOf, partsOf, sayFirstShown, sayRunPlace } from "./model";
import { Rooms } from "./Rooms";
import { VerdictHistory } from "./VerdictHistory";

interface Props {
  job: MachineRecord;
  comparison: Comparison;
  measure: Measure;
}

/** Everything behind one measure: the runs, the rule, the figures and what did not count. */
export function Detail({ job, comparison, measure }: Props) {
  const result = comparison.measures[measure.id];
  const worded = comparison.worded.measures[measure.id];
  if (!result || !worded) return null;
  const { remark, late, rise, today } = worded;
  const first = sayFirstShown(result, worded, job.machine.time_zone);
  return (
    <section aria-label={`Detail of ${measure.name}`} className="space-y-4">
      <div>
        <h2 className="eyebrow mb-1">{measure.name}</h2>
        <p className="text-3xl font-bold tracking-tight">{worded.both}</p>
        {worded.forms.map((line) => (
          <p key={line} className="text-soft">
            {line}
          </p>
        ))}
        {rise && <p className="text-soft">{rise}</p>}
        <p className="mt-2">
          <Verdict
            verdict={result.verdict}
            provisional={result.provisional && result.verdict !== "untested"}
            afterOnly={result.runs_before === 0 && result.runs_after > 0}
          />
        </p>
        {first && <p className="mt-2 font-medium">{first}</p>}
        {today && <p className="mt-2 font-medium">{today}</p>}
      </div>
      <PairPlot job={job} comparison={comparison} measure={measure} result={result} worded={worded} />
      {remark && <Note>{remark}</Note>}
      {late && <Note>{late}</Note>}
      <Facts result={result} worded={worded} />
      {result.flags.filter(isNews).map((flag) => (
        <Note key={flag.message}>{flag.message}</Note>
      ))}
      <Parts job={job} comparison={comparison} whole={measure} />
      <InContext lines={worded.context} />
      <NotCounted job={job} result={result} />
      {result.remark === "room_unknown" && <Rooms key={comparison.after} job={job} comparison={comparison} />}
      <VerdictHistory entries={comparison.beside.history[measure.id]} />
      <ForTheNext statistics={comparison.statistics[measure.id]} worded={worded} name={measure.name} />
      <LeaveOut key={measure.id} job={job} comparison={comparison} measure={measure} />
    </section>
  );
}

interface PlotProps extends Props {
  result: MeasureResult;
  worded: Worded;
}

function PairPlot({ job, comparison, measure, result, worded }: PlotProps) {
  const { pairs, loose } = dotsOf(job, comparison, measure);
  if (pairs.length + loose.length === 0) return null;
  const letter = (id: string) => job.builds.find((build) => build.id === id)?.letter ?? "?";
  const side = (name: "before" | "after", mean: string, id: string) => (
    <div className={name === "before" ? "text-right text-before" : "text-after"}>
      <span className="block text-sm">
        {name} · {letter(id)}
      </span>
      <b className="font-semibold">{[mean, worded.unit].filter(Boolean).join(" ")}</b>
      {result.above_room && <span className="block text-sm">above the room</span>}
    </div>
  );
  const { verdict, provisional } = result;
  const interval = worded.interval ? `; ${worded.level} interval ${worded.interval}` : "";
  const caption = [
    worded.forms.join("; "),
    `${verdictWord(verdict)}${provisional ? ", provisional" : ""}${interval}; matters from ${worded.margin}.`,
    comparison.worded.bundle,
    worded.grade && `Grading: ${worded.grade}.`,
    worded.remark,
    "Dots: single runs, before on the left and after on the right, joined by their pair.",
  ];
  return (
    <ChartToTake name={`${job.machine.name}: ${measure.name}, ${worded.both}`} caption={caption}>
      <div className="grid grid-cols-[1fr_auto_1fr] items-center gap-2">
        {side("before", worded.before, comparison.before)}
        <PairDots
          pairs={pairs}
          loose={loose}
          width={92}
          height={170}
          radius={4.5}
          label={`${pairs.length} pairs of runs of ${measure.name}, ${loose.length} runs that do not count or have no partner`}
        />
        {side("after", worded.after, comparison.after)}
      </div>
    </ChartToTake>
  );
}

function Facts({ result, worded }: { result: MeasureResult; worded: Worded }) {
  const facts: [string, string | null][] = [
    [`${worded.level} interval`, worded.interval],
    ["When unchanged", worded.floor],
    ["Grading", worded.grade],
    ["Would settle it", worded.settling],
    [
      "Rests on",
      `${bothSides(result.units_before, result.units_after)}\u00a0sittings, ${bothSides(result.runs_before, result.runs_after)}\u00a0runs`,
    ],
    ["Matters from", worded.margin],
    ["Hoped for", worded.hoped],
  ];
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-2 gap-y-1.5">
      {facts.map(([name, fact]) =>
        fact === null ? null : (
          <div key={name} className="contents">
            <dt className="text-sm text-soft">{name}</dt>
            <dd className="text-right font-semibold">{fact}</dd>
          </div>
        ),
      )}
    </dl>
  );
}

/** What a total is made of: the parts that fell first, for a total hides them. */
function Parts({ job, comparison, whole }: { job: MachineRecord; comparison: Comparison; whole: Measure }) {
  const parts = partsOf(comparison, job.measures, whole);
  if (parts.length === 0) return null;
  const fell = parts.filter(({ result }) => (result.estimate ?? 0) < 0).length;
  return (
    <div>
      <h3 className="eyebrow mb-1">Made of{fell > 0 && `, ${fell} of ${parts.length} fell`}</h3>
      <ul>
        {parts.map(({ measure }) => (
          <li key={measure.id} className="flex justify-between gap-2">
            <span>{measure.name}</span>
            <span className="font-semibold whitespace-nowrap">
              {comparison.worded.measures[measure.id]?.change}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

function InContext({ lines }: { lines: string[] }) {
  if (lines.length === 0) return null;
  return (
    <div>
      <h3 className="eyebrow mb-1">Set against</h3>
      <ul className="space-y-1">
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </div>
  );
}

/** Runs without a partner, a line for each reason. */
function NotCounted({ job, result }: { job: MachineRecord; result: MeasureResult }) {
  if (result.unpaired.length === 0) return null;
  const byReason = new Map<string, string[]>();
  for (const { run, reason } of result.unpaired) {
    byReason.set(reason, [...(byReason.get(reason) ?? []), sayRunPlace(job, run)]);
  }
  return (
    <div>
      <h3 className="eyebrow mb-1">Without a partner</h3>
      <ul className="space-y-1 text-soft">
        {[...byReason].map(([reason, places]) => (
          <li key={reason}>
            {places.join(", ")}: {reason}
          </li>
        ))}
      </ul>
    </div>
  );
}

/** What the head of the page, the grade or a line above says already. */
const WORDED_ELSEWHERE = new Set<MeasureResult["flags"][number]["code"]>([
  "several_changes",
  "few_sittings",
  "left_out_late",
  "corrected_late",
  "closed_short",
  "changed_after_verdict",
  "block_order",
]);

const isNews = (flag: MeasureResult["flags"][number]): boolean => !WORDED_ELSEWHERE.has(flag.code);

/** A count of both sides, which stays on one line. */
const bothSides = (before: number, after: number): string => `${before}\u00a0+\u00a0${after}`;
