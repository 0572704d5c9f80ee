import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { asKind, call, type FieldProblem, type Import, Lost, Refused } from "../../api/client";
import { Button } from "../../ui/Button";
import { FileButton } from "../../ui/FileButton";
import { Note } from "../../ui/Note";
import { refreshBenches } from "../../job/api";
import { sayImport } from "./model";

const MAX_RUN_FILE_BYTES = 100 * 1024 * 1024;
const ASK_MS = 400;

const shareOf = ({ done, total }: Import): number => (total ? Math.floor((100 * done) / total) : 0);

/** A server that is away for a moment goes on with the file when it is back. */
const waitFor = (state: Import) => (error: unknown) => {
  if (error instanceof Lost) return state;
  throw error;
};

/** Takes a run file over, and tells how far a large one is while it lasts. */
function useTake() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const [underWay, setUnderWay] = useState<Import | null>(null);
  const take = useMutation({
    mutationFn: async (file: File) => {
      if (file.size > MAX_RUN_FILE_BYTES) {
        throw new Error(`${file.name} is larger than 100 MB; a run file is smaller. Nothing was taken over.`);
      }
      let state = await call("post", "/api/run-files", {}, asKind(file, "application/json"));
      while (state.state === "running" && state.id) {
        setUnderWay(state);
        await new Promise((done) => setTimeout(done, ASK_MS));
        const asked = call("get", "/api/run-files/{import_id}", { import_id: state.id });
        state = await asked.catch(waitFor(state));
      }
      return state;
    },
    onSettled: () => setUnderWay(null),
    onSuccess: async ({ machine }) => {
      if (!machine) return;
      await refreshBenches(client);
      await navigate(`/machines/${machine}/judge`);
    },
  });
  return { take, underWay };
}

/** Takes a run file over: a small one at once, a large one with its progress and a way to stop it. */
export function ImportButton() {
  const { take, underWay } = useTake();
  return (
    <>
      {underWay ? (
        <HowFar underWay={underWay} />
      ) : (
        <FileButton
          label="Run file to import"
          accept=".json,application/json"
          disabled={take.isPending}
          onChoose={take.mutate}
        >
          {take.isPending ? "Reading…" : "Import a run file"}
        </FileButton>
      )}
      {take.error && (
        <Outcome
          message={take.error.message}
          problems={take.error instanceof Refused ? take.error.errors : []}
        />
      )}
      {take.data?.state === "stopped" && (
        <Outcome message="The import was stopped; nothing of the file was taken over." problems={[]} />
      )}
      {(take.data?.state === "refused" || take.data?.state === "failed") && (
        <Outcome message="Nothing of the file was taken over." problems={take.data.problems} />
      )}
    </>
  );
}

function HowFar({ underWay }: { underWay: Import }) {
  const stop = () => {
    if (underWay.id) void call("delete", "/api/run-files/{import_id}", { import_id: underWay.id });
  };
  return (
    <div className="flex items-center gap-3">
      <span className="text-soft" role="status">
        {sayImport(underWay)}
      </span>
      <span
        role="progressbar"
        aria-label="Import"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={shareOf(underWay)}
        className="block h-2 w-40 overflow-hidden rounded-full bg-line"
      >
        <span className="block h-full bg-ink" style={{ width: `${shareOf(underWay)}%` }} />
      </span>
      <Button onClick={stop}>Stop the import</Button>
    </div>
  );
}

function Outcome({ message, problems }: { message: string; problems: FieldProblem[] }) {
  return (
    <div className="order-last basis-full">
      <Note alert>
        {message}
        {problems.length > 0 && (
          <ul className="mt-1 max-h-40 overflow-auto">
            {problems.map((problem) => (
              <li key={problem.field + problem.message}>
                <b className="font-semibold">{problem.field}</b>: {problem.message}
              </li>
            ))}
          </ul>
        )}
      </Note>
    </div>
  );
}
