import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ChangeEvent, useRef } from "react";

import { type Case, putRunPicture, type Run } from "../../api/client";
import { shrinkPicture } from "../../lib/picture";
import { Button } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { picturesQuery } from "../machine/api";

/** A photo of what the figure was read off: kept at once, so that the figure can be checked later. */
export function RunPicture({ job, run, has }: { job: Case; run: Run; has: boolean }) {
  const client = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const save = useMutation({
    mutationFn: async (file: File) => putRunPicture(job.machine.id, run.id, await shrinkPicture(file)),
    onSuccess: () =>
      client.invalidateQueries({ queryKey: picturesQuery(job.machine.id, run.sitting).queryKey }),
  });
  const onChoose = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0];
    if (file) save.mutate(file);
    event.target.value = "";
  };
  return (
    <div>
      <input
        ref={input}
        type="file"
        accept="image/*"
        capture="environment"
        aria-label="Photo of the reading"
        className="sr-only"
        tabIndex={-1}
        onChange={onChoose}
      />
      <Button disabled={save.isPending} onClick={() => input.current?.click()}>
        {has ? "Another photo of the reading" : "Photo of the reading"}
      </Button>
      {save.isSuccess && (
        <span role="status" className="ml-3 text-soft">
          kept
        </span>
      )}
      {save.error && (
        <Note alert>
          {save.error instanceof DOMException
            ? "This file is no picture that can be read."
            : save.error.message}
        </Note>
      )}
    </div>
  );
}
