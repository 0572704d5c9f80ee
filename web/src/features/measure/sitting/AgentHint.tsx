import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { asKind, benchJobAddress, call, type Case, Refused } from "../../../api/client";
import { formatCount, formatTime } from "../../../lib/format";
import { Button } from "../../../ui/Button";
import { FileButton } from "../../../ui/FileButton";
import { Note } from "../../../ui/Note";

/** Two lines to be typed on the machine under test once; from then on one word does what the plan needs next. */
export function AgentHint({ job }: { job: Case }) {
  const pairing = useMutation({
    mutationFn: () => call("post", "/api/machines/{machine_id}/pairing", { machine_id: job.machine.id }),
  });
  const { host, origin } = window.location;
  return (
    <section>
      <h2 className="eyebrow mb-2">Let the bench agent measure</h2>
      {pairing.data ? (
        <>
          <p className="mb-2 text-soft">Type both on the machine under test, in an empty folder:</p>
          <Command text={`curl -O ${origin}/agent/lynxbill-bench.pyz`} name="the first line" />
          <Command
            text={`python3 lynxbill-bench.pyz pair ${host} ${pairing.data.code}`}
            name="the second line"
          />
          <p className="mb-2 text-soft">
            The code does once, until {formatTime(pairing.data.until, job.machine.time_zone)}. From then on,
            whenever it shall measure:
          </p>
          <Command text="python3 lynxbill-bench.pyz" name="the word" />
        </>
      ) : (
        <p className="mb-2 text-soft">
          One file for the machine under test, and a code typed once. Its runs appear here as they finish.
        </p>
      )}
      {pairing.error && <Note alert>{pairing.error.message}</Note>}
      <details className="mt-1">
        <summary className="flex min-h-11 cursor-pointer items-center text-soft">
          On another PC, which this server can’t be reached from
        </summary>
        <p className="mb-2 text-soft">
          Carry the agent’s file and this job there on a stick, and type what stands below.
        </p>
        <a
          href={benchJobAddress(job.machine.id)}
          download="lynxbill-job.json"
          className="flex min-h-11 items-center text-soft underline underline-offset-4 hover:text-ink"
        >
          Save this job for the stick
        </a>
        <Command text="python3 lynxbill-bench.pyz --job lynxbill-job.json" name="the line for a stick" />
        <p className="mb-2 text-soft">
          It writes a run file. Take that in here, as often as you like: nothing is stored twice.
        </p>
        <TakeAgentFile job={job} />
      </details>
      <Button look="quiet" disabled={pairing.isPending} onClick={() => pairing.mutate()}>
        {pairing.data ? "Another code" : "Show what to type"}
      </Button>
    </section>
  );
}

/** Takes in what the agent wrote elsewhere, chosen or dropped. */
function TakeAgentFile({ job }: { job: Case }) {
  const client = useQueryClient();
  const [isOver, setIsOver] = useState(false);
  const taken = useMutation({
    mutationFn: (file: File) =>
      call(
        "post",
        "/api/machines/{machine_id}/agent-file",
        { machine_id: job.machine.id },
        asKind(file, "application/json"),
      ),
    onSuccess: () => client.invalidateQueries(),
  });
  return (
    <div
      className={`rounded-md border border-dashed p-2 ${isOver ? "border-ink bg-note" : "border-edge"}`}
      onDragOver={(event) => {
        event.preventDefault();
        setIsOver(true);
      }}
      onDragLeave={() => setIsOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setIsOver(false);
        const file = event.dataTransfer.files[0];
        if (file) taken.mutate(file);
      }}
    >
      <FileButton
        label="Run file of the agent"
        accept="application/json,.json"
        look="quiet"
        disabled={taken.isPending}
        onChoose={taken.mutate}
      >
        Take in the agent’s run file…
      </FileButton>
      {taken.data && (
        <p role="status">
          {formatCount(taken.data.runs, "run")} of it {taken.data.runs === 1 ? "is" : "are"} here now.
        </p>
      )}
      {taken.error && <NotTaken error={taken.error} />}
    </div>
  );
}

function NotTaken({ error }: { error: Error }) {
  const problems = error instanceof Refused ? error.errors : [];
  return (
    <Note alert>
      {error.message}
      {problems
        .filter(({ message }) => message !== error.message)
        .map(({ field, message }) => (
          <span key={field} className="block">{`${field}: ${message}`}</span>
        ))}
    </Note>
  );
}

function Command({ text, name }: { text: string; name: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <div className="mb-2">
      <code className="block rounded-md border border-line bg-paper p-2 text-sm wrap-anywhere select-all">
        {text}
      </code>
      <Button
        look="quiet"
        aria-label={copied ? `Copied ${name}` : `Copy ${name}`}
        onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}
      >
        {copied ? "Copied" : "Copy"}
      </Button>
    </div>
  );
}
