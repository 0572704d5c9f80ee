import type { ReactNode } from "react";

import { bind } from "../../lib/bind";
import type { DecimalMark } from "../../lib/number";
import { Button } from "../../ui/Button";
import { ChoiceField, NoteField, TextField } from "../../ui/Field";
import { asksOf, isDerived, KIND_NAMES, MEASURE_KINDS } from "../../job/kinds";
import { useVocabulary } from "../../job/vocabulary";
import {
  bases,
  divisors,
  type MeasureDraft,
  measureProblem,
  ratedChoices,
  sayNeed,
  type TraceFigure,
  traceFigures,
  type WorkloadDraft,
} from "./model";

const KINDS = KIND_NAMES.map((kind) => [kind, MEASURE_KINDS[kind].label] as const);
const COMBINED = [
  ["", "read by itself"],
  ["highest", "the highest of its parts"],
  ["mean", "the mean of its parts"],
  ["sum", "the sum of its parts"],
  ["lowest", "the lowest of its parts"],
] as const;
const TRACE_FIGURES: Record<TraceFigure, string> = {
  settled: "off its trace: the settled mean",
  "last minute": "off its trace: the last minute",
  highest: "off its trace: the highest",
  "at minute": "off its trace: at a minute of the load",
  equilibrium: "off its trace: where it would end",
  "within 1 K": "off its trace: until within 1 K",
  recovery: "off its trace: until half its rise is gone",
  resistance: "off its trace: rise by power",
  "last less first": "off its trace: last less first ten minutes",
  "held back": "off its trace: share held back",
};

interface Props {
  draft: WorkloadDraft;
  measure: MeasureDraft;
  number: number;
  /** What was refused: of what it is a part, its kind, what it is divided by, how it is read off a trace. */
  problems: Partial<Record<"part" | "kind" | "per" | "trace", string | undefined>>;
  missing: ReturnType<typeof measureProblem>;
  mark: DecimalMark;
  onEdit: (change: Partial<MeasureDraft>) => void;
  onRemove: (() => void) | undefined;
  aside: ReactNode;
}

/** What is read off a workload: its name and kind, and what the kind asks for. */
export function MeasureFields(props: Props) {
  const { draft, measure, number, problems, onEdit, onRemove, aside } = props;
  const field = bind(measure, onEdit);
  const rated = ratedChoices(draft.loads, measure.kind, useVocabulary().parts);
  return (
    <div className="grid gap-2 sm:grid-cols-[1fr_14rem_14rem]">
      <TextField
        label={`Name of measure ${number}`}
        placeholder={draft.name || "what is read"}
        {...field("name")}
      />
      <ChoiceField
        label={`Measure ${number} is`}
        choices={KINDS}
        {...field("kind")}
        problem={problems.kind}
      />
      <PartOf {...props} />
      <Asked {...props} />
      <OffTrace {...props} />
      {rated.length > 0 && (
        <ChoiceField
          label={`Measure ${number} is set against`}
          choices={[["", "no rating"] as const, ...rated]}
          {...field("ratedAs")}
        />
      )}
      {onRemove && (
        <div className="flex flex-wrap gap-2 sm:col-span-3">
          <Button look="quiet" aria-label={`Remove measure ${number}`} onClick={onRemove}>
            Remove this figure
          </Button>
          {aside}
        </div>
      )}
    </div>
  );
}

/** Of what it is a part; of a whole, how it comes from its parts. */
function PartOf({ draft, measure, number, problems, onEdit }: Props) {
  const field = bind(measure, onEdit);
  if (draft.measures.some((other) => other.partOf === measure.id))
    return <ChoiceField label={`Measure ${number} comes from`} choices={COMBINED} {...field("combined")} />;
  if (draft.measures.length < 2) return null;
  const wholes = draft.measures.filter((other) => other.id !== measure.id && !other.partOf);
  return (
    <ChoiceField
      label={`Measure ${number} is a part of`}
      choices={[["", "nothing: it stands alone"] as const, ...named(wholes, draft, "the first measure")]}
      {...field("partOf")}
      problem={problems.part}
    />
  );
}

const named = (measures: MeasureDraft[], { name }: WorkloadDraft, first: string) =>
  measures.map((other) => [other.id, other.name || name || first] as const);

/** What the kind of a measure asks for beside its name. */
function Asked({ draft, measure, number, problems, missing, mark, onEdit }: Props) {
  const asks = asksOf(measure.kind);
  const problemOf = (field: string) => (missing?.field === field ? missing.text : undefined);
  const field = bind(measure, onEdit, problemOf);
  return (
    <>
      {asks === "levels" && (
        <NoteField label={`Steps of measure ${number}, one a line, the worst first`} {...field("levels")} />
      )}
      {asks === "of" && (
        <TextField
          label={`Measure ${number} tries how many`}
          inputMode="decimal"
          placeholder="e.g. 9 programs"
          {...field("of")}
        />
      )}
      {isDerived(measure.kind) && (
        <ChoiceField
          label={`Measure ${number} is made from`}
          choices={[["", "choose a figure"] as const, ...named(bases(draft, measure), draft, "the first")]}
          {...field("base")}
        />
      )}
      {asks === "needs" && (
        <TextField
          label={`Measure ${number} ${sayNeed(draft, measure)}`}
          inputMode="decimal"
          {...field("needs")}
          problem={problemOf("needs") ?? problems.per}
        />
      )}
      {asks?.startsWith("per") && (
        <ChoiceField
          label={`Measure ${number} is divided by`}
          choices={[["", sayDivisors(measure)] as const, ...divisors(draft, measure, mark)]}
          {...field("per")}
          problem={problemOf("per") ?? problems.per}
        />
      )}
    </>
  );
}

/** How it is read off a run's trace, where it can be. */
function OffTrace({ draft, measure, number, problems, onEdit }: Props) {
  // How long a temperature takes to settle is asked of heat jobs alone.
  const isHeat = draft.loads.some((part) => part === "cooler" || part === "thermal paste");
  const isAsked = isHeat || measure.traceFigure !== "" || !["time", "load"].includes(measure.kind);
  const figures = traceFigures(measure.kind);
  if (figures.length === 0 || !isAsked) return null;
  const field = bind(measure, onEdit);
  return (
    <>
      <ChoiceField
        label={`Measure ${number} is read`}
        choices={[
          ["", "by hand, or by the agent"] as const,
          ...figures.map((figure) => [figure, TRACE_FIGURES[figure]] as const),
        ]}
        {...field("traceFigure")}
        problem={problems.trace}
      />
      {measure.traceFigure && (
        <TextField
          label={`Measure ${number}: of which part or sensor`}
          placeholder="the processor"
          {...field("traceOf")}
        />
      )}
      {measure.traceFigure === "at minute" && (
        <TextField
          label={`Measure ${number}: at which minute`}
          inputMode="decimal"
          {...field("traceMinute")}
        />
      )}
      {measure.traceFigure && isHeat && (
        <ChoiceField
          label={`Measure ${number}: of several sensors`}
          choices={SEVERAL}
          {...field("traceBy")}
        />
      )}
    </>
  );
}

const SEVERAL = [
  ["hottest", "the hottest at each moment"],
  ["mean", "their mean"],
] as const;

const sayDivisors = (measure: MeasureDraft): string =>
  asksOf(measure.kind) === "per power"
    ? "choose the figure for power"
    : "choose a number held the same below";
