import { runFileAddress } from "../../api/client";
import { useCase } from "../machine/api";
import { formatCount, formatList } from "../../lib/format";
import { ButtonLink } from "../../ui/Button";
import { newestBuild } from "../machine/model";
import { BuildCard } from "./BuildCard";
import { PlanForm } from "./PlanForm";
import { WorkloadForm } from "./WorkloadForm";

/** The job sheet: the machine as it stands, the question, and what will be measured to answer it. */
export function SetupPage() {
  const job = useCase();
  const build = newestBuild(job);
  return (
    <main className="grid lg:grid-cols-[23rem_1fr]">
      <aside className="border-line p-5 lg:min-h-[calc(100vh-3.5rem)] lg:border-r">
        {build && <BuildCard job={job} build={build} />}
        <a
          href={runFileAddress(job.machine.id)}
          className="mt-4 flex min-h-11 items-center text-soft underline underline-offset-4 hover:text-ink"
        >
          Export this machine as a run file
        </a>
      </aside>
      <div className="space-y-6 p-5">
        <section>
          <h2 className="eyebrow mb-1">The question</h2>
          <h1 className="lead">
            {job.machine.question || sayMeasures(job.measures.map((measure) => measure.name))}
          </h1>
        </section>
        {job.measures.length > 0 && <PlanForm job={job} />}
        <div className="flex flex-wrap items-start gap-3">
          <WorkloadForm job={job} open={job.measures.length === 0} />
          {job.measures.length > 0 && (
            <ButtonLink look="main" to="../measure">
              Go and measure
            </ButtonLink>
          )}
        </div>
      </div>
    </main>
  );
}

function sayMeasures(names: string[]): string {
  if (names.length === 0) return "Nothing to measure yet. What does this machine do all day?";
  return `${formatCount(names.length, "measure")}: ${formatList(names)}.`;
}
