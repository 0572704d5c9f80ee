import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { asKind, call, type Case } from "../../../api/client";
import { Button } from "../../../ui/Button";
import { FileButton } from "../../../ui/FileButton";
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
  const look = useMutation({
    mutationFn: (file: File) => call("post", "/api/sensor-logs", {}, asKind(file, "text/csv")),
  });
  // What was said of columns stays said where the same log is chosen anew, mended.
  const [worded, setSentence] = useState<Record<string, Column>>({});
  return (
    <div className="space-y-4">
      <p className="text-soft">
        A table with a time and what sensors told, a row a moment, as any logging program saves it. Its
        separator, decimal mark and times are found out.
      </p>
      <FileButton
        label="Sensor log"
        accept=".csv,.txt,.tsv,text/csv,text/plain"
        disabled={look.isPending}
        onChoose={look.mutate}
      >
        {look.isPending ? "Looking at it…" : look.data ? "Choose another log" : "Choose the log"}
      </FileButton>
      {look.error && <Note alert>{look.error.message}</Note>}
      {look.data ? (
        <Columns
          key={look.data.id}
          job={job}
          run={run}
          place={place}
          log={look.data}
          worded={worded}
          onSay={(column) => setSentence({ ...worded, [column.heading]: column })}
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
