import { useSuspenseQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { Link, useSearchParams } from "react-router";

import type { Bench, Home } from "../../api/client";
import { Button, ButtonLink } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Note } from "../../ui/Note";
import { TopBarHome } from "../../ui/TopBar";
import { type HomeShow, homeQuery } from "../../job/api";
import { describeParts, nextStep, stateOfLine, today } from "../../job/model";
import { ImportButton } from "./ImportButton";
import { type Line, sayBenches, sayDue, sayFound, sayNewest, sayPage, sayShow } from "./model";

/** So many machines are found at a glance. */
const FEW = 7;
const LONGEST_SEARCH = 200;
const SHOWS: readonly HomeShow[] = ["all", "waiting", "due", "resting"];

export function HomePage() {
  const [address, setAddress] = useSearchParams();
  const find = address.get("find") ?? "";
  const page = Math.max(1, Number.parseInt(address.get("page") ?? "1", 10) || 1);
  const show = SHOWS.find((known) => known === address.get("show")) ?? "all";
  const look = (find: string, page: number, shown: HomeShow = show) =>
    setAddress(
      {
        ...(find && { find }),
        ...(page > 1 && { page: String(page) }),
        ...(shown !== "all" && { show: shown }),
      },
      { replace: true },
    );
  // What stands there stays until the next page, or what was looked for, is read.
  const home = useSuspenseQuery(
    homeQuery(today(), useDeferredValue(find), useDeferredValue(page), useDeferredValue(show)),
  ).data;
  return (
    <>
      <TopBarHome context="">
        <ButtonLink look="quiet" to="/shelf">
          Parts shelf
        </ButtonLink>
        <ImportButton />
        <ButtonLink look="main" to="/new">
          New job
        </ButtonLink>
      </TopBarHome>
      <main className="mx-auto max-w-[1240px] p-6">
        {home.total ? <Benches home={home} find={find} page={page} show={show} look={look} /> : <FirstRun />}
      </main>
    </>
  );
}

interface BenchesProps {
  home: Home;
  find: string;
  page: number;
  show: HomeShow;
  look: (find: string, page: number, show?: HomeShow) => void;
}

function Benches({ home, find, page, show, look }: BenchesProps) {
  return (
    <>
      <h1 className="lead mb-1">{sayBenches(home, today())}</h1>
      <p className="mb-4 text-soft">{sayDue(home, today())}</p>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        {(home.total > FEW || find) && (
          <div className="w-80">
            <TextField
              label="Find by name, owner or part"
              value={find}
              onChange={(text) => look(text.slice(0, LONGEST_SEARCH), 1)}
            />
          </div>
        )}
        <div role="group" aria-label="Which machines" className="flex flex-wrap gap-2">
          {SHOWS.map((known) => (
            <Button
              key={known}
              look={known === show ? "main" : "plain"}
              aria-pressed={known === show}
              onClick={() => look(find, 1, known)}
            >
              {sayShow(home, known)}
            </Button>
          ))}
        </div>
      </div>
      <ul className="space-y-3">
        {home.benches.map((bench) => (
          <li key={bench.id}>
            <BenchRow bench={bench} />
          </li>
        ))}
      </ul>
      {(find || home.found === 0) && (
        <p className="mt-4 text-soft" role="status">
          {sayFound(home, find)}
        </p>
      )}
      {home.found > home.page_size && (
        <nav aria-label="Pages" className="mt-4 flex flex-wrap items-center gap-3">
          <p className="text-soft">{sayPage(home, page)}</p>
          <Button disabled={page <= 1} onClick={() => look(find, page - 1)}>
            Those before
          </Button>
          <Button disabled={page * home.page_size >= home.found} onClick={() => look(find, page + 1)}>
            Those after
          </Button>
        </nav>
      )}
    </>
  );
}

function BenchRow({ bench }: { bench: Bench }) {
  if (bench.state === "unreadable")
    return (
      <Note alert>
        <b className="font-semibold">{bench.name}</b> could not be read: something recorded of it is damaged.
        Nothing of it is lost; the server’s log says what it met.
      </Note>
    );
  return (
    <div className="card grid grid-cols-1 items-center gap-x-6 gap-y-2 md:grid-cols-[17rem_1fr_17rem]">
      <div>
        <Link to={`/machines/${bench.id}/judge`} className="text-lg font-semibold hover:underline">
          {bench.name}
        </Link>
        <p className="text-soft">{bench.owner}</p>
        {bench.line && (
          <p className="truncate text-sm text-soft">
            {bench.line.fitted ? describeParts(bench.line.fitted) : "no parts yet"}
          </p>
        )}
      </div>
      {bench.set_aside !== null ? (
        <p className="text-soft">Set aside: {bench.set_aside}</p>
      ) : bench.state === "judged" && bench.line ? (
        <Newest line={bench.line} />
      ) : (
        <p className="text-soft">Being judged…</p>
      )}
      {bench.line && bench.set_aside === null && <Next machine={bench.id} line={bench.line} />}
    </div>
  );
}

function Newest({ line }: { line: Line }) {
  return <p className="text-[1.1rem]">{sayNewest(line)}</p>;
}

function Next({ machine, line }: { machine: string; line: Line }) {
  const next = nextStep(stateOfLine(line, today()));
  return (
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
        to={`/machines/${machine}/${next.station}`}
        className="flex min-h-11 items-center font-semibold underline"
      >
        {next.text}
      </Link>
    </div>
  );
}

function FirstRun() {
  const steps = [
    ["Say what is to be changed", "and what the machine does all day; all else can wait."],
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
      <div className="flex flex-wrap gap-3">
        <ButtonLink look="main" to="/new">
          Begin the first job
        </ButtonLink>
        <ButtonLink to="/machines/new">Describe a machine with all its parts</ButtonLink>
        <ButtonLink look="quiet" to="/columns">
          Only compare two columns of figures
        </ButtonLink>
      </div>
    </div>
  );
}
