import { call, type Case, refusedAt, type Swap } from "../../api/client";
import { isDay } from "../../lib/day";
import { useDraft } from "../../lib/draft";
import { formatDayOf } from "../../lib/format";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { useSave } from "../../job/api";

/** On which day a swap was made that is told from an old log; it stands once anything was read after it. */
export function SwapDay({ job, swap }: { job: Case; swap: Swap }) {
  const [{ day }, setDraft, forget] = useDraft(`swap-day.${swap.id}`, { day: "" });
  const save = useSave(
    job.machine.id,
    () =>
      call(
        "put",
        "/api/machines/{machine_id}/swaps/{swap_id}/day",
        { machine_id: job.machine.id, swap_id: swap.id },
        { opened_at: `${day}T12:00:00Z`, version: swap.version },
      ),
    forget,
  );
  const refused = refusedAt(save.error)("opened_at");
  const problem = day && !isDay(day) ? "Write a day from 1970 to 2199." : refused;
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center text-soft">
        Made on{" "}
        {swap.opened_at ? formatDayOf(swap.opened_at, job.machine.time_zone) : "a day that nobody noted"} ·
        another day, from an old log
      </summary>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (isDay(day)) save.mutate(undefined);
        }}
      >
        <DateField
          label="Day of the swap"
          problem={problem}
          value={day}
          onChange={(typed) => setDraft({ day: typed })}
        />
        <Button type="submit" disabled={!isDay(day) || save.isPending}>
          Correct the day
        </Button>
      </form>
      {save.error && !refused && <Note alert>{save.error.message}</Note>}
    </details>
  );
}
