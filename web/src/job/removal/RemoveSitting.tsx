import type { Case, Sitting } from "../../api/client";
import { Button } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { useSave } from "../api";
import { removeSitting } from "./removal";

/** Takes a sitting away that was begun by mistake: nothing was measured in it. */
export function RemoveSitting({ job, sitting, onDone }: { job: Case; sitting: Sitting; onDone: () => void }) {
  const remove = useSave(job.machine.id, () => removeSitting(job.machine.id, sitting.id), onDone);
  return (
    <div>
      {remove.error && <Note alert>{remove.error.message}</Note>}
      <Button look="quiet" disabled={remove.isPending} onClick={() => remove.mutate(undefined)}>
        Remove this empty sitting
      </Button>
    </div>
  );
}
