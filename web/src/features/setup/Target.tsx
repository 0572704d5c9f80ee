import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";

import { call, type Case, type PartRole } from "../../api/client";
import { ChoiceField, TextField } from "../../ui/Field";
import { fittedBuild } from "../../job/model";
import type { WorkloadDraft } from "./model";

/** Roles of parts that a job may load. */
export const LOADED: readonly PartRole[] = [
  "processor",
  "memory",
  "drive",
  "graphics",
  "cooler",
  "thermal paste",
];
const IN_WORDS = "in words";

interface TargetProps {
  job: Case;
  target: string;
  loads: WorkloadDraft["loads"];
  onChange: (target: string) => void;
}

/** What the job is aimed at: one of the fitted parts, or a slot or cores in words; says what it is set against. */
export function Target({ job, target, loads, onChange }: TargetProps) {
  const fitted = (fittedBuild(job)?.parts ?? []).filter(({ role }) => LOADED.includes(role));
  const labels = [...new Set(fitted.map(({ label }) => label))];
  const [inWords, setInWords] = useState(target !== "" && !labels.includes(target));
  const asked = useDeferredValue(target.trim());
  const aim = useQuery({
    queryKey: ["aim", job.machine.id, job.revision, asked, loads],
    queryFn: () =>
      call(
        "post",
        "/api/machines/{machine_id}/aim",
        { machine_id: job.machine.id },
        { target: asked, loads },
      ),
    enabled: asked !== "" || loads.length > 0,
    placeholderData: (last) => last,
    retry: false,
  });
  const { sentence = "", asks = [] } = aim.data ?? {};
  return (
    <div className="space-y-1">
      <ChoiceField
        label="Aimed at"
        value={inWords ? IN_WORDS : target}
        choices={[
          ["", "the whole machine"] as const,
          ...labels.map((label) => [label, label] as const),
          [IN_WORDS, "a slot, cores: in words"] as const,
        ]}
        hint={sentence}
        onChange={(chosen) => {
          setInWords(chosen === IN_WORDS);
          onChange(chosen === IN_WORDS ? "" : chosen);
        }}
      />
      {inWords && (
        <TextField
          label="Slot, cores or part that it is aimed at"
          hideLabel
          placeholder="e.g. cores 0 to 3"
          value={target}
          onChange={onChange}
        />
      )}
      {asks.map((ask) => (
        <p key={ask} role="status" className="text-sm font-medium text-warn">
          {ask}
        </p>
      ))}
    </div>
  );
}
