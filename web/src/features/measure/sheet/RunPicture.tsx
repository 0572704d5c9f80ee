import { useMutation, useQueryClient } from "@tanstack/react-query";

import { call, type Case, type Run } from "../../../api/client";
import { shrinkPicture } from "../../../lib/picture";
import { PhotoButton } from "../../../ui/PhotoButton";
import { picturesQuery } from "../../../job/api";

/** A photo of what the figure was read off: kept at once, so that the figure can be checked later. */
export function RunPicture({ job, run, has }: { job: Case; run: Run; has: boolean }) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async (file: File) =>
      call(
        "put",
        "/api/machines/{machine_id}/runs/{run_id}/picture",
        { machine_id: job.machine.id, run_id: run.id },
        await shrinkPicture(file),
      ),
    onSuccess: () =>
      client.invalidateQueries({ queryKey: picturesQuery(job.machine.id, run.sitting).queryKey }),
  });
  return (
    <div>
      <PhotoButton
        label="Photo of the reading"
        disabled={save.isPending}
        error={save.error}
        onChoose={(file) => save.mutate(file)}
      >
        {has ? "Another photo of the reading" : "Photo of the reading"}
      </PhotoButton>
      {save.isSuccess && (
        <span role="status" className="ml-3 text-soft">
          kept
        </span>
      )}
    </div>
  );
}
