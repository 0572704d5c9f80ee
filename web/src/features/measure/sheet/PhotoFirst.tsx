import { useMutation, useQueryClient } from "@tanstack/react-query";

import { type Case, runPictureAddress } from "../../../api/client";
import { shrinkPicture } from "../../../lib/picture";
import { PhotoButton } from "../../../ui/PhotoButton";
import { type Row, rowName } from "../../../job/rows";

interface Props {
  job: Case;
  row: Row;
  onChoose: (picture: Blob) => Promise<unknown>;
}

/** A photo of the screen now, its figure later: the row waits, and is not forgotten. */
export function PhotoFirst({ job, row, onChoose }: Props) {
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async (file: File) => onChoose(await shrinkPicture(file)),
    onSuccess: () => client.invalidateQueries({ queryKey: ["pictures"] }),
  });
  return (
    <div className="mt-3 flex flex-wrap items-center gap-3">
      {row.photo && <WaitingPhoto job={job} row={row} isLarge />}
      <PhotoButton
        label={`Photo of ${rowName(row).toLowerCase()}`}
        disabled={save.isPending}
        error={save.error}
        onChoose={(file) => save.mutate(file)}
      >
        {row.photo ? "Another photo" : "Photo now, figure later"}
      </PhotoButton>
    </div>
  );
}

/** The photo off which a row's figure is still to be read. */
export function WaitingPhoto({ job, row, isLarge = false }: { job: Case; row: Row; isLarge?: boolean }) {
  const address = runPictureAddress(job.machine.id, row.photo ?? "");
  return (
    <a href={address} target="_blank" rel="noreferrer" className="flex items-center gap-3">
      <img
        src={address}
        alt={`Photo of ${rowName(row).toLowerCase()}, opens in full`}
        className={`${isLarge ? "h-40" : "h-16"} w-auto rounded border border-line`}
      />
      <span className="font-medium">{isLarge ? "Read the figure off it." : "waits for its figure"}</span>
    </a>
  );
}
