import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";

import { call, type Case, refusedAt } from "../../api/client";
import { offerUndo } from "../../lib/undo";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { refreshBenches } from "../api";

/** Takes the machine away with everything recorded of it, once its name was typed. */
export function RemoveMachine({ job }: { job: Case }) {
  const { id, name } = job.machine;
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const client = useQueryClient();
  const navigate = useNavigate();
  const remove = useMutation({
    mutationFn: () =>
      call("delete", "/api/machines/{machine_id}", { machine_id: id }, undefined, { name: typed }),
    onSuccess: async () => {
      offerUndo(name, () => call("put", "/api/machines/{machine_id}/return", { machine_id: id }));
      await navigate("/");
      await refreshBenches(client);
    },
  });
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    remove.mutate();
  };
  const problem = refusedAt(remove.error)("name");
  return (
    <>
      <Button look="quiet" onClick={() => setOpen(true)}>
        Remove this machine…
      </Button>
      <Dialog title="Remove this machine" open={open} onClose={() => setOpen(false)}>
        <form onSubmit={onSubmit} className="space-y-4">
          <p>
            Its {job.builds.length} builds, {job.sittings.length} sittings, swaps, accounts, pictures and the
            reports that were handed out go with it. It can be brought back for ten seconds; export its run
            file first where any of it may be asked for again.
          </p>
          <TextField
            label={`Type its name to remove it: ${name}`}
            autoFocus
            value={typed}
            problem={problem}
            onChange={setTyped}
          />
          {remove.error && !problem && <Note alert>{remove.error.message}</Note>}
          <div className="flex flex-wrap gap-2">
            <Button type="submit" disabled={remove.isPending || !typed.trim()}>
              Remove it with all of this
            </Button>
            <Button look="main" onClick={() => setOpen(false)}>
              Keep it
            </Button>
          </div>
        </form>
      </Dialog>
    </>
  );
}
