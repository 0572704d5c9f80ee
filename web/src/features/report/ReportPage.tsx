import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearchParams } from "react-router";

import { call, type Case, photoAddress, type Report, type Swap } from "../../api/client";
import { useDraft } from "../../lib/draft";
import { Button, ButtonLink } from "../../ui/Button";
import { reportsQuery, useCase } from "../../job/api";
import { HandedOut } from "../../job/HandedOut";
import { draftQuery, madeQuery } from "./api";
import { Controls } from "./Controls";
import { type Form, type Paper, type PaperSize, type Section } from "./model";
import "./paper.css";
import { saveAsFile } from "./save";
import { Sheet } from "./Sheet";
import { emptyWish, type WishDraft, wishBody } from "./wish";

/** The paper that says what an upgrade brought: a draft to be completed, or one that was handed out. */
export function ReportPage() {
  const job = useCase();
  const [params] = useSearchParams();
  const made = params.get("report");
  const swap = job.swaps.find(({ id }) => id === params.get("swap")) ?? job.swaps.at(-1);
  if (made) return <Made job={job} id={made} />;
  if (swap) return <Draft key={swap.id} job={job} swap={swap} />;
  return (
    <main className="p-6">
      <h1 className="lead mb-4">No swap yet, so there is nothing to report.</h1>
      <ButtonLink look="main" to="../swap">
        To the swap
      </ButtonLink>
    </main>
  );
}

const photosOf = (job: Case, report: Report): Record<string, string> =>
  Object.fromEntries(
    report.notes.flatMap(({ picture }) =>
      picture === null ? [] : [[picture, photoAddress(job.machine.id, picture)]],
    ),
  );

const chosen = (photos: Record<string, string>, without: string[]): Record<string, string> =>
  Object.fromEntries(Object.entries(photos).filter(([name]) => !without.includes(name)));

/** What is wished of a report, the draft that the server writes of it, and how it is handed out. */
function useReportDraft(job: Case, swap: Swap) {
  const { machine } = job;
  const [params] = useSearchParams();
  const navigate = useNavigate();
  const [draft, setDraft, forget] = useDraft<WishDraft>(`report.${swap.id}`, {
    ...emptyWish,
    labour: params.get("labour") !== "without",
    years: params.get("years") ?? "0",
  });
  const wish = wishBody(draft, swap);
  const { data, error, isPlaceholderData } = useQuery({
    ...draftQuery(machine.id, wish),
    placeholderData: keepPreviousData,
  });
  const client = useQueryClient();
  const handOut = useMutation({
    mutationFn: () => call("post", "/api/machines/{machine_id}/reports", { machine_id: machine.id }, wish),
    onSuccess: async (made) => {
      forget();
      await client.invalidateQueries(reportsQuery(machine.id));
      await navigate(`?report=${made.id}`);
    },
  });
  const paperOf = (report: Report): Paper => ({
    report,
    form: draft.form,
    number: null,
    since: [],
    photos: chosen(photosOf(job, report), draft.withoutPhotos),
    without: draft.without,
  });
  // What was typed just now is written and checked first; what is doubted of it is read before anything leaves.
  const once = (act: (paper: Paper) => void) => {
    if (data && !isPlaceholderData) return act(paperOf(data));
    void client.fetchQuery(draftQuery(machine.id, wish)).then((written) => {
      if (written.doubts.length === 0) act(paperOf(written));
    });
  };
  const onChange = (next: WishDraft) => {
    // What was said of the wish before is not said of this one.
    handOut.reset();
    setDraft(next);
  };
  return { draft, data, error, handOut, paperOf, once, onChange };
}

function Draft({ job, swap }: { job: Case; swap: Swap }) {
  const { draft, data, error, handOut, paperOf, once, onChange } = useReportDraft(job, swap);
  if (error) throw new Error("The report could not be written.", { cause: error });
  if (!data) return <main className="p-6 text-soft">Writing the report…</main>;
  const paper = paperOf(data);
  return (
    <main className="grid items-start gap-5 p-5 xl:grid-cols-[24rem_1fr] print:block print:p-0">
      <div className="space-y-4 print:hidden">
        <h1 className="lead">Report: {data.title}</h1>
        <Controls draft={draft} report={data} onChange={onChange}>
          <Button look="main" disabled={handOut.isPending} onClick={() => once(() => handOut.mutate())}>
            Hand it out
          </Button>
          <SaveAndPrint paper={paper} size={draft.size} once={once} />
          {handOut.error && (
            <p role="alert" className="font-medium text-warn">
              {handOut.error.message}
            </p>
          )}
        </Controls>
        <HandedOut job={job} />
      </div>
      <Sheet {...paper} />
    </main>
  );
}

function Made({ job, id }: { job: Case; id: string }) {
  const { data, error } = useQuery(madeQuery(job.machine.id, id));
  const [form, setForm] = useDraft<{ form: Form | ""; size: PaperSize; without: Section[] }>(
    `report.look.${id}`,
    {
      form: "",
      size: "A4",
      without: [],
    },
  );
  if (error)
    return (
      <main className="p-6">
        <h1 className="lead mb-4">{error.message}</h1>
        <HandedOut job={job} />
      </main>
    );
  if (!data) return <main className="p-6 text-soft">Fetching the report…</main>;
  const paper: Paper = {
    report: data.report,
    form: form.form || data.form,
    number: data.number,
    since: data.since,
    photos: photosOf(job, data.report),
    without: form.without,
  };
  const swap = job.swaps.find(({ before, after }) => before === data.before && after === data.after);
  return (
    <main className="grid items-start gap-5 p-5 xl:grid-cols-[24rem_1fr] print:block print:p-0">
      <div className="space-y-4 print:hidden">
        <h1 className="lead">Report {data.number}, as it was handed out</h1>
        <section className="card space-y-3">
          <div className="flex flex-wrap gap-2">
            <Button aria-pressed={paper.form === "short"} onClick={() => setForm({ ...form, form: "short" })}>
              Short form
            </Button>
            <Button aria-pressed={paper.form === "full"} onClick={() => setForm({ ...form, form: "full" })}>
              Full form
            </Button>
          </div>
          <SaveAndPrint paper={paper} size={form.size} />
          {swap && (
            <ButtonLink look="quiet" to={`?swap=${swap.id}`}>
              Write a later one
            </ButtonLink>
          )}
        </section>
        <HandedOut job={job} current={id} />
      </div>
      <Sheet {...paper} />
    </main>
  );
}

interface SaveAndPrintProps {
  paper: Paper;
  size: PaperSize;
  /** Acts on the paper as it was asked for, once it is written. */
  once?: (act: (paper: Paper) => void) => void;
}

function SaveAndPrint({ paper, size, once = (act) => act(paper) }: SaveAndPrintProps) {
  return (
    <>
      <Button onClick={() => once((written) => void saveAsFile(written, size))}>Save as a file</Button>
      <Button onClick={() => once(() => setTimeout(() => window.print(), DRAWN_MS))}>Print</Button>
    </>
  );
}

/** By then the screen shows what was just answered, which is what is printed. */
const DRAWN_MS = 50;
