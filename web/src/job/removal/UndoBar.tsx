import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { OFFERED_MS, type Undo, useUndo, withdrawUndo } from "../../lib/undo";
import { Button } from "../../ui/Button";

/** Says what was removed, and brings it back for ten seconds; longer while a hand or the keyboard is on it. */
export function UndoBar() {
  const undo = useUndo();
  return (
    <aside aria-label="Just removed" className="print:hidden">
      {undo && <Offer key={undo.id} undo={undo} />}
    </aside>
  );
}

function Offer({ undo }: { undo: Undo }) {
  const client = useQueryClient();
  const [held, setHeld] = useState(false);
  const back = useMutation({
    mutationFn: undo.bringBack,
    onSuccess: async () => {
      withdrawUndo(undo.id);
      await client.invalidateQueries();
    },
  });
  const isDone = !held && !back.isPending && !back.isError;
  useEffect(() => {
    if (!isDone) return;
    const end = setTimeout(() => withdrawUndo(undo.id), OFFERED_MS);
    return () => clearTimeout(end);
  }, [isDone, undo.id]);
  return (
    <div
      className="card fixed inset-x-4 bottom-4 z-10 mx-auto flex max-w-xl flex-wrap items-center gap-3 border-2 border-ink px-4 py-2 shadow-lg"
      onFocus={() => setHeld(true)}
      onBlur={() => setHeld(false)}
      onMouseEnter={() => setHeld(true)}
      onMouseLeave={() => setHeld(false)}
    >
      <p role="status" className="grow wrap-anywhere">
        {back.error ? back.error.message : `Removed: ${undo.what}.`}
      </p>
      <Button disabled={back.isPending} onClick={() => back.mutate()}>
        Undo: bring it back
      </Button>
      <Button look="quiet" onClick={() => withdrawUndo(undo.id)}>
        Leave it removed
      </Button>
    </div>
  );
}
