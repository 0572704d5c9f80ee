import type { Case, Part, Vocabulary } from "../../api/client";
import { bind } from "../../lib/bind";
import { newId } from "../../lib/ids";
import type { DecimalMark } from "../../lib/number";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { describeRated } from "../../job/figures";
import { PART_ROLES } from "../../job/model";
import { type PartDraft, partName, valuesOf } from "../../job/parts";
import { FiguresField } from "../../job/PartsForm";
import { useSeating } from "../../job/seating";
import { partsAfter, type SwapDraft, unnamed } from "./model";

const ROLES = PART_ROLES.map((role) => [role, role] as const);

interface ExchangesProps {
  job: Case;
  draft: SwapDraft;
  vocabulary: Vocabulary;
  onChange: (draft: SwapDraft) => void;
}

/** Part by part what comes out and what goes in, then what is added. */
export function Exchanges({ job, draft, vocabulary, onChange }: ExchangesProps) {
  const { decimal_mark: mark, limits } = job.machine;
  const after = partsAfter(draft, vocabulary, mark);
  const settings = valuesOf(draft.settings, vocabulary.settings, mark);
  const seating = useSeating(after, settings, limits, mark);
  const about = (id: string): About => ({
    others: after.filter((part) => part.id !== id),
    seated: seating.get(id),
    vocabulary,
    mark,
  });
  const edit = (id: string, change: Partial<Exchange>) =>
    onChange({
      ...draft,
      exchanges: draft.exchanges.map((e) => (e.part.id === id ? { ...e, ...change } : e)),
    });
  const editAdded = (id: string, change: Partial<PartDraft>) =>
    onChange({
      ...draft,
      added: draft.added.map((part) => (part.id === id ? { ...part, ...change } : part)),
    });
  const first = draft.exchanges.find(({ out }) => out);
  return (
    <section>
      <div className="mb-2 grid grid-cols-2 gap-3">
        <h2 className="eyebrow text-before!">Comes out</h2>
        <h2 className="eyebrow text-after!">Goes in</h2>
      </div>
      <ul className="space-y-2">
        {draft.exchanges.map((exchange) => (
          <ExchangeLine
            key={exchange.part.id}
            exchange={exchange}
            all={draft.exchanges.map(({ part }) => part)}
            isFirst={exchange === first}
            onEdit={(change) => edit(exchange.part.id, change)}
            {...about(exchange.newId)}
          />
        ))}
        {draft.added.map((part, place) => (
          <AddedLine
            key={part.id}
            part={part}
            isFirst={place === 0}
            onEdit={(change) => editAdded(part.id, change)}
            {...about(part.id)}
          />
        ))}
      </ul>
      <Button look="quiet" onClick={() => onChange({ ...draft, added: [...draft.added, newPart()] })}>
        + a part that is added
      </Button>
    </section>
  );
}

const newPart = (): PartDraft => ({ id: newId(), role: "memory", label: "", figures: "" });

type Exchange = SwapDraft["exchanges"][number];

/** What the rated figures of a part are read with. */
interface About {
  others: Part[];
  seated: ReturnType<ReturnType<typeof useSeating>["get"]>;
  vocabulary: Vocabulary;
  mark: DecimalMark;
}

interface LineProps extends About {
  exchange: Exchange;
  all: Part[];
  isFirst: boolean;
  onEdit: (change: Partial<Exchange>) => void;
}

function ExchangeLine({ exchange, all, isFirst, onEdit, ...about }: LineProps) {
  const { part, out } = exchange;
  return (
    <li className="grid grid-cols-2 gap-3">
      <button
        type="button"
        aria-pressed={out}
        onClick={() => onEdit({ out: !out })}
        className={`rounded-lg border border-line bg-card p-3 text-left ${out ? "border-l-4 border-l-before" : ""}`}
      >
        <span className="eyebrow block">{part.role}</span>
        <span className="block font-semibold">{partName(part, all)}</span>
        <span className="text-sm text-soft">
          {out ? "comes out" : describeRated(part, about.vocabulary, about.mark) || "stays"}
        </span>
      </button>
      {out ? (
        <GoesIn {...{ exchange, isFirst, onEdit }} {...about} />
      ) : (
        <p className="self-center text-soft">stays</p>
      )}
    </li>
  );
}

function GoesIn({ exchange, isFirst, onEdit, ...about }: Omit<LineProps, "all">) {
  const { part } = exchange;
  const usual = unnamed(part, about.vocabulary);
  const field = bind(exchange, onEdit);
  return (
    <div className="space-y-1 rounded-lg border border-l-4 border-line border-l-after bg-card p-3">
      <TextField
        label={`New ${part.role}`}
        hideLabel
        placeholder={
          usual ? `its name, or empty: ${usual.toLowerCase()}` : `new ${part.role}, or empty if none`
        }
        autoFocus={isFirst}
        {...field("label")}
      />
      <FiguresField
        role={part.role}
        label={`Rated figures of the new ${part.role}`}
        {...field("figures")}
        {...about}
      />
    </div>
  );
}

interface AddedProps extends About {
  part: PartDraft;
  isFirst: boolean;
  onEdit: (change: Partial<PartDraft>) => void;
}

function AddedLine({ part, isFirst, onEdit, ...about }: AddedProps) {
  const field = bind(part, onEdit);
  return (
    <li className="grid grid-cols-2 gap-3">
      <ChoiceField label="Kind of the added part" choices={ROLES} {...field("role")} />
      <div className="space-y-2 rounded-lg border border-l-4 border-line border-l-after bg-card p-3">
        <TextField
          label="Added part"
          hideLabel
          placeholder={`new ${part.role}`}
          autoFocus={isFirst}
          {...field("label")}
        />
        <FiguresField
          role={part.role}
          label="Rated figures of the added part"
          {...field("figures")}
          {...about}
        />
      </div>
    </li>
  );
}
