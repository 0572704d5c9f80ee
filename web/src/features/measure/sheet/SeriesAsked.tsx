import { Button } from "../../../ui/Button";
import { Note } from "../../../ui/Note";
import type { Series } from "./Cell";

/** A log of one run is no column of runs: nothing of it is taken before that is said. */
export function SeriesAsked({ series: { rows, take }, onDone }: { series: Series; onDone: () => void }) {
  const [first, last] = [rows[0]?.[0], rows.at(-1)?.[0]];
  return (
    <div className="mt-3">
      <Note alert>
        <p>
          <b className="font-semibold">
            {first} to {last} in even steps: is this one run over time?
          </b>{" "}
          Then it is no column of runs, and only its figure belongs here: type that one.
        </p>
        <div className="mt-2 flex flex-wrap gap-2">
          <Button onClick={onDone}>It is one run: take nothing</Button>
          <Button
            onClick={() => {
              take();
              onDone();
            }}
          >
            Each row is a run of its own
          </Button>
        </div>
      </Note>
    </div>
  );
}
