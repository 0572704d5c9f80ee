import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { type Case, postPairing } from "../../api/client";
import { formatTime } from "../../lib/format";
import { Button } from "../../ui/Button";
import { Note } from "../../ui/Note";

/** Two lines to be typed on the machine under test once; from then on one word does what the plan needs next. */
export function AgentHint({ job }: { job: Case }) {
  const pairing = useMutation({ mutationFn: () => postPairing(job.machine.id) });
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
      <Button look="quiet" disabled={pairing.isPending} onClick={() => pairing.mutate()}>
        {pairing.data ? "Another code" : "Show what to type"}
      </Button>
    </section>
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
