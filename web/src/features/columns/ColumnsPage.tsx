import { useQuery } from "@tanstack/react-query";
import { type ClipboardEvent, useDeferredValue } from "react";

import { call, type ColumnsIn, refusedAt } from "../../api/client";
import { bind } from "../../lib/bind";
import { useDraft } from "../../lib/draft";
import type { DecimalMark } from "../../lib/number";
import { Button, ButtonLink } from "../../ui/Button";
import { ChoiceField, NoteField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { TopBarHome } from "../../ui/TopBar";
import { KIND_NAMES, MEASURE_KINDS, type MeasureKind } from "../../job/kinds";
import { splitColumns } from "./model";

const PLAIN: readonly MeasureKind[] = KIND_NAMES.filter(
  (name) => !("asks" in MEASURE_KINDS[name]) && name !== "works",
);
const KINDS = PLAIN.map((name) => [name, MEASURE_KINDS[name].label] as const);
const MARKS = [
  [".", "a point: 41.9"],
  [",", "a comma: 41,9"],
] as const satisfies readonly (readonly [DecimalMark, string])[];

interface ColumnsDraft {
  kind: MeasureKind;
  mark: DecimalMark;
  before: string;
  after: string;
}

const EMPTY: ColumnsDraft = { kind: "time", mark: ".", before: "", after: "" };

/** What the server says of the columns, once there is something in both. */
function useAnswer(draft: ColumnsDraft) {
  const { unit, scale, kind, better } = MEASURE_KINDS[draft.kind];
  const asked = useDeferredValue<ColumnsIn>({
    ...{ unit, scale, kind, better, before: draft.before, after: draft.after, decimal_mark: draft.mark },
  });
  const hasBoth = Boolean(asked.before.trim() && asked.after.trim());
  const answer = useQuery({
    queryKey: ["columns", asked],
    queryFn: () => call("post", "/api/columns", {}, asked),
    enabled: hasBoth,
    retry: false,
    gcTime: 0,
  });
  return hasBoth ? answer : { data: undefined, error: null };
}

/** Two columns of figures, read the moment they are there; nothing else is asked, and nothing is kept but here. */
export function ColumnsPage() {
  const [draft, setDraft, forget] = useDraft<ColumnsDraft>("columns", EMPTY);
  const set = (change: Partial<ColumnsDraft>) => setDraft({ ...draft, ...change });
  const { data, error } = useAnswer(draft);
  const at = refusedAt(error);
  const field = bind(draft, set, at);
  const onPaste = (event: ClipboardEvent) => {
    const sides = splitColumns(event.clipboardData.getData("text"));
    if (!sides) return;
    event.preventDefault();
    set(sides);
  };
  const [first, ...more] = data?.lines ?? [];
  return (
    <>
      <TopBarHome context="Two columns" />
      <main className="mx-auto max-w-[52rem] space-y-5 p-6">
        <div role="status">
          <h1 className="lead mb-1">{first ?? "Two columns of figures: what changed?"}</h1>
          <p className="text-soft">
            {more.join(" ") ||
              "Type or paste them, one figure a line; both columns of a spreadsheet at once, too."}
          </p>
        </div>
        <div className="grid gap-4 sm:grid-cols-2">
          <ChoiceField label="The figures are" choices={KINDS} {...field("kind")} />
          <ChoiceField label="Decimals are written with" choices={MARKS} {...field("mark")} />
        </div>
        <div className="grid gap-4 sm:grid-cols-2" onPaste={onPaste}>
          <NoteField label="Before" isTall {...field("before")} />
          <NoteField label="After" isTall {...field("after")} />
        </div>
        {error && !at("before") && !at("after") && <Note alert>{error.message}</Note>}
        <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
          <ButtonLink look={first ? "main" : "plain"} to="/new">
            Find out whether it is real: begin a job
          </ButtonLink>
          <Button look="quiet" onClick={forget}>
            Clear both columns
          </Button>
        </div>
      </main>
    </>
  );
}
