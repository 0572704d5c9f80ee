import { useMutation } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { asKind, call, type Case } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { Note } from "../../../ui/Note";
import { type Column, Columns } from "./Columns";
import type { Place } from "./OverTime";

interface Props {
  job: Case;
  run: string;
  place: Place;
  onClose: () => void;
  onKept: () => void;
}

/** A log that another program wrote: looked at first, its columns said, then taken in as the trace of this run. */
export function SensorLog({ job, run, place, onClose, onKept }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const look = useMutation({
    mutationFn: (file: File) => call("post", "/api/sensor-logs", {}, asKind(file, "text/csv")),
  });
  // What was said of columns stays said where the same log is chosen anew, mended.
  const [said, setSaid] = useState<Record<string, Column>>({});
  return (
    <div className="space-y-4">
      <p className="text-soft">
        A table with a time and what sensors told, a row a moment, as any logging program saves it. Its
        separator, decimal mark and times are found out.
      </p>
      <input
        ref={input}
        type="file"
        accept=".csv,.txt,.tsv,text/csv,text/plain"
        aria-label="Sensor log"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) look.mutate(file);
          event.target.value = "";
        }}
      />
      <Button disabled={look.isPending} onClick={() => input.current?.click()}>
        {look.isPending ? "Looking at it…" : look.data ? "Choose another log" : "Choose the log"}
      </Button>
      {look.error && <Note alert>{look.error.message}</Note>}
      {look.data ? (
        <Columns
          key={look.data.id}
          job={job}
          run={run}
          place={place}
          log={look.data}
          said={said}
          onSay={(column) => setSaid({ ...said, [column.heading]: column })}
          onKept={onKept}
        />
      ) : (
        <div>
          <Button onClick={onClose}>Close</Button>
        </div>
      )}
    </div>
  );
}
