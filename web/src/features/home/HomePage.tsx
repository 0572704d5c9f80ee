import { useMutation, useQueryClient, useSuspenseQuery } from "@tanstack/react-query";
import { type ChangeEvent, useRef } from "react";
import { Link, useNavigate } from "react-router";

import { type Bench, postRunFile, Refused } from "../../api/client";
import { Button, ButtonLink } from "../../ui/Button";
import { Note } from "../../ui/Note";
import { TopBar } from "../../ui/TopBar";
import { benchesQuery, type ReadBench, readBenches } from "../machine/api";
import { describeParts, nextStep, stateOfLine, today } from "../machine/model";
import { leadShowing, useShown } from "../machine/shown";
import { sayBenches, sayDue, sayNewest } from "./model";

const MAX_RUN_FILE_BYTES = 50 * 1024 * 1024;

export function HomePage() {
  const benches = useSuspenseQuery(benchesQuery).data;
  return (
    <>
      <TopBar context="">
        <div className="ml-auto flex flex-wrap gap-3">
          <ImportButton />
          <ButtonLink look="main" to="/machines/new">
            New machine
          </ButtonLink>
        </div>
      </TopBar>
      <main className="mx-auto max-w-[1240px] p-6">
        {benches.length ? <Benches benches={benches} /> : <FirstRun />}
      </main>
    </>
  );
}

function Benches({ benches }: { benches: Bench[] }) {
  const read = readBenches(benches);
  const unread = benches.filter((bench) => bench.line === null);
  return (
    <>
      <h1 className="lead mb-1">{sayBenches(read, today())}</h1>
      <p className="mb-4 text-soft">{sayDue(read, today())}</p>
      {unread.map((bench) => (
        <div key={bench.id} className="mb-3">
          <Note alert>
            <b className="font-semibold">{bench.name}</b> could not be read: something recorded of it is
            damaged. Nothing of it is lost; the server’s log says what it met.
          </Note>
        </div>
      ))}
      <ul className="space-y-3">
        {read.map((bench) => (
          <BenchRow key={bench.id} bench={bench} />
        ))}
      </ul>
    </>
  );
}

function BenchRow({ bench }: { bench: ReadBench }) {
  const { id, line } = bench;
  const next = nextStep(stateOfLine(line, today()));
  useShown(id, line.newest ? [leadShowing(line.newest)] : []);
  return (
    <li className="card grid grid-cols-1 items-center gap-x-6 gap-y-2 md:grid-cols-[15rem_1fr_17rem]">
      <div>
        <Link to={`/machines/${id}/judge`} className="text-lg font-semibold hover:underline">
          {bench.name}
        </Link>
        <p className="text-soft">{line.owner}</p>
        <p className="text-soft">{line.standing ? describeParts(line.standing) : "no parts yet"}</p>
      </div>
      <p className="text-[1.1rem]">{sayNewest(bench)}</p>
      <div>
        <span className="mb-2 flex gap-1" role="img" aria-label={`${next.done} of 5 stations done`}>
          {[0, 1, 2, 3, 4].map((station) => (
            <span
              key={station}
              className={`h-1.5 w-8 rounded-full ${station < next.done ? "bg-ink" : station === next.done ? "bg-eye" : "bg-line"}`}
            />
          ))}
        </span>
        <Link
          to={`/machines/${id}/${next.station}`}
          className="flex min-h-11 items-center font-semibold underline"
        >
          {next.text}
        </Link>
      </div>
    </li>
  );
}

function FirstRun() {
  const steps = [
    ["Describe the machine", "its parts, and what hurts."],
    ["Measure it", "a few runs, then reboot and again: three sittings tell a gain from chance."],
    ["Swap the part", "and write down what it cost."],
    ["Measure again", "under the same plan."],
    ["Read the verdict and the bill", "is the gain real, and what did each euro buy?"],
  ] as const;
  return (
    <div className="mx-auto max-w-2xl pt-8">
      <h1 className="lead mb-2">No machine yet. Five steps lead to the first verdict.</h1>
      <ol className="my-6 space-y-3">
        {steps.map(([what, why], index) => (
          <li key={what} className="flex gap-4">
            <span className="grid size-8 shrink-0 place-items-center rounded-full border border-edge font-semibold">
              {index + 1}
            </span>
            <span className="pt-1">
              <b className="font-semibold">{what}:</b> {why}
            </span>
          </li>
        ))}
      </ol>
      <ButtonLink look="main" to="/machines/new">
        Describe the first machine
      </ButtonLink>
    </div>
  );
}

function ImportButton() {
  const input = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const client = useQueryClient();
  const take = useMutation({
    mutationFn: async (file: File) => {
      if (file.size > MAX_RUN_FILE_BYTES) {
        throw new Error(`${file.name} is larger than 50 MB; a run file is smaller. Nothing was taken over.`);
      }
      return postRunFile(await file.text());
    },
    onSuccess: async ({ machine }) => {
      await client.invalidateQueries({ queryKey: ["benches"] });
      await navigate(`/machines/${machine}/judge`);
    },
  });
  const onChoose = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0];
    if (file) take.mutate(file);
    event.target.value = "";
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        aria-label="Run file to import"
        className="sr-only"
        tabIndex={-1}
        onChange={onChoose}
      />
      <Button disabled={take.isPending} onClick={() => input.current?.click()}>
        {take.isPending ? "Reading…" : "Import a run file"}
      </Button>
      {take.error && (
        <div className="basis-full">
          <Note alert>
            {take.error.message}
            {take.error instanceof Refused && (
              <ul className="mt-1 max-h-40 overflow-auto">
                {take.error.errors.map((error) => (
                  <li key={error.field + error.message}>
                    <b className="font-semibold">{error.field}</b>: {error.message}
                  </li>
                ))}
              </ul>
            )}
          </Note>
        </div>
      )}
    </>
  );
}
