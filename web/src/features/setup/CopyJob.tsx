import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";

import { call, type Case, refusedAt } from "../../api/client";
import { newId } from "../../lib/ids";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { refreshBenches } from "../../job/api";

/** The same job on the next PC of its kind: parts, jobs, plan, checklist and costs come along, and no run. */
export function CopyJob({ job }: { job: Case }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [id] = useState(newId);
  const client = useQueryClient();
  const navigate = useNavigate();
  const copy = useMutation({
    mutationFn: () =>
      call(
        "put",
        "/api/machines/{machine_id}/copies/{copy_id}",
        { machine_id: job.machine.id, copy_id: id },
        { name },
      ),
    onSuccess: async () => {
      await refreshBenches(client);
      await navigate(`/machines/${id}/measure`);
    },
  });
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    copy.mutate();
  };
  const problem = refusedAt(copy.error)("name");
  return (
    <>
      <Button look="quiet" onClick={() => setOpen(true)}>
        Same job on the next PC…
      </Button>
      <Dialog title="The same job on the next PC" open={open} onClose={() => setOpen(false)}>
        <form onSubmit={onSubmit} className="space-y-4">
          <p className="text-soft">
            Parts, tasks, plan, and the newest swap with its checklist and costs come along; no run, and
            nothing that was noted on the way.
          </p>
          <TextField
            label="What the other machine is called"
            required
            autoFocus
            value={name}
            problem={problem}
            onChange={setName}
          />
          {copy.error && !problem && <Note alert>{copy.error.message}</Note>}
          <Button look="main" type="submit" disabled={copy.isPending}>
            Copy the job, and measure
          </Button>
        </form>
      </Dialog>
    </>
  );
}
