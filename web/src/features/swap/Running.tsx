import type { Case } from "../../api/client";
import { Chips } from "../../ui/Chips";
import { ChoiceField, TextField } from "../../ui/Field";
import type { CostDraft } from "./costs";

interface Props {
  job: Case;
  cost: CostDraft;
  n: number;
  onChange: (change: Partial<CostDraft>) => void;
  problemAt: (field: string) => string | undefined;
}

const TYPED = ["", "typed"] as const;

/** What both sides take of electricity, by the hour or by the job: typed, or from what was measured. */
export function Running({ job, cost, n, onChange, problemAt }: Props) {
  const of = (unit: string) =>
    job.measures.filter((measure) => measure.unit === unit).map((m) => [m.id, m.name] as const);
  const [power, times] = [of("W"), of("s")];
  const isByTask = cost.by === "tasks";
  const unit = isByTask ? "Wh a task" : "W";
  const field = (label: string, name: "aDay" | "daysAYear" | "before" | "after", at: string) => (
    <TextField
      label={`${label}, cost ${n}`}
      inputMode="decimal"
      value={cost[name]}
      problem={problemAt(at)}
      onChange={(value) => onChange({ [name]: value })}
    />
  );
  return (
    <div className="space-y-2">
      <div className="flex flex-wrap items-center gap-3">
        <Chips
          label={`Electricity of cost ${n} is counted`}
          choices={["by hours", "by tasks"]}
          chosen={[isByTask ? "by tasks" : "by hours"]}
          onChange={(chosen) => onChange({ by: chosen.at(-1) === "by tasks" ? "tasks" : "hours" })}
        />
        <span className="text-soft">
          {isByTask
            ? "A faster part is not charged for hours that it no longer runs."
            : "For a machine that runs so many hours whatever it is given to do."}
        </span>
      </div>
      {problemAt("running") && (
        <p role="alert" className="font-medium text-warn">
          {problemAt("running")}
        </p>
      )}
      <div className="grid grid-cols-2 gap-2 sm:grid-cols-4">
        {power.length > 0 && (
          <ChoiceField
            label={`Power of cost ${n} from`}
            value={cost.power}
            choices={[TYPED, ...power]}
            onChange={(measure) => onChange({ power: measure, time: cost.time || (times[0]?.[0] ?? "") })}
          />
        )}
        {cost.power && isByTask && (
          <ChoiceField
            label={`Time of a task, cost ${n}, from`}
            value={cost.time}
            choices={times}
            onChange={(time) => onChange({ time })}
          />
        )}
        {!cost.power && field(`Before, ${unit}`, "before", "running.before")}
        {!cost.power && field(`After, ${unit}`, "after", "running.after")}
        {field(isByTask ? "Tasks a day" : "Hours a day", "aDay", "running.a_day")}
        {field("Days a year", "daysAYear", "running.days_a_year")}
      </div>
    </div>
  );
}
