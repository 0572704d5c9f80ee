import type { ReactNode } from "react";

import type { Report, ReportRow } from "../../api/client";
import { HeatPlot } from "../../charts/HeatPlot";
import { SittingDots } from "../../charts/SittingDots";
import { ValueChart } from "../../charts/ValueChart";
import { valuePoints } from "../../charts/valuePoints";
import { verdictMark, verdictWord } from "../../ui/Verdict";
import { Measured } from "./Measured";
import { columnsOf, drawnHeat, type Paper, type Section } from "./model";

/** What the next technician needs: everything. */
export function FullForm({ report, photos, without }: Paper) {
  const shows = (section: Section) => !without.includes(section);
  const { setting } = report;
  const others = report.rows.filter((row) => row.role !== "claim");
  return (
    <>
      <ClaimsBought setting={setting} />
      <Lines of={[...setting.room, ...(report.overall ? [report.overall] : [])]} />
      <NotInTheSum report={report} />
      {shows("options") && <Options report={report} />}
      {shows("whole") && <Whole report={report} />}
      {others.length > 0 && (
        <>
          <h2>What should not move, and what was only watched</h2>
          <Measured rows={others} />
        </>
      )}
      {shows("limits") && (
        <Section title="What holds the machine back now" of={[...report.causes, ...report.limits]} />
      )}
      <Heat report={report} />
      <h2>Each measure</h2>
      {report.rows.map((row) => (
        <Each key={row.measure} row={row} showsRuns={shows("runs")} />
      ))}
      <Section title="Runs that do not count" of={report.left_out} none="Every run counts." />
      <Section
        title="What was corrected"
        of={report.corrected}
        none="No reading was corrected after it was written."
      />
      <Section title="Looks, attempts and controls" of={report.looks} />
      <Changes
        title="What differs between the two builds"
        rows={report.differences}
        none="Nothing differs."
      />
      <Changes
        title="What both sides did not share"
        rows={report.departures}
        none="No condition that was noted for both sides differs."
      />
      <Section title="Conditions that the plan held" of={report.conditions} />
      <Section title="Beside the readings" of={[...report.beside.drawbacks, ...report.beside.found]} />
      {shows("notes") && <Notes report={report} photos={photos} />}
    </>
  );
}

function ClaimsBought({ setting }: Pick<Report, "setting">) {
  return (
    <>
      <h2>What each claim bought</h2>
      <Table head={["claim", "change", `for 10 ${setting.bill.currency}`, "result"]}>
        {setting.claims.map((claim) => (
          <tr key={claim.measure}>
            <th scope="row">{claim.name}</th>
            <td>
              {claim.change}
              <span className="aside">{claim.both}</span>
            </td>
            <td>{claim.value}</td>
            <td>
              <span className={`verdict ${claim.verdict}`}>
                {verdictMark(claim.verdict)} {verdictWord(claim.verdict).toLowerCase()}
              </span>
            </td>
          </tr>
        ))}
      </Table>
    </>
  );
}

/** Heat of both sides by minutes of load, with what it was read together with. */
function Heat({ report: { heat, joint } }: { report: Report }) {
  if (!heat && !joint) return null;
  return (
    <>
      <h2>Heat, by minutes of load</h2>
      {joint && <p>{joint}</p>}
      {heat && (
        <>
          <p>
            {heat.worded.sentence} {heat.worded.beneath}
          </p>
          <figure>
            <HeatPlot
              heat={drawnHeat(heat)}
              width={680}
              window={heat.window ?? [Math.max(0, heat.same_s - 60), heat.same_s]}
              windowSays={heat.window ? "this window counts, both sides" : "looked at, both sides"}
              cursor={null}
              label={heat.worded.sentence}
            />
          </figure>
          <Table head={["read together", "before", "after", "change"]}>
            {heat.worded.rows.map((row) => (
              <tr key={row.what}>
                <th scope="row">{row.what}</th>
                <td>{row.before}</td>
                <td>{row.after}</td>
                <td>{row.change}</td>
              </tr>
            ))}
          </Table>
        </>
      )}
    </>
  );
}

function Table({ head, children }: { head: string[]; children: ReactNode }) {
  return (
    <table>
      <thead>
        <tr>
          {head.map((name) => (
            <th key={name} scope="col">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  );
}

function Lines({ of }: { of: string[] }) {
  return of.map((line) => <p key={line}>{line}</p>);
}

function Section({ title, of, none }: { title: string; of: string[]; none?: string }) {
  if (of.length === 0 && !none) return null;
  return (
    <section>
      <h2>{title}</h2>
      {of.length === 0 ? <p>{none}</p> : null}
      <ul>
        {of.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </section>
  );
}

function NotInTheSum({ report }: { report: Report }) {
  const lines = report.setting.account.entries.filter((entry) => !entry.counts);
  if (lines.length === 0) return null;
  return (
    <>
      <h2>Noted, and not in the sum</h2>
      <ul>
        {lines.map((entry, index) => (
          <li key={index}>
            {entry.label}: {entry.amount} ({entry.detail})
          </li>
        ))}
      </ul>
    </>
  );
}

function Options({ report }: { report: Report }) {
  const { setting } = report;
  const { currency } = setting.bill;
  return (
    <>
      <h2>Was there a better way to spend it?</h2>
      <figure>
        <ValueChart
          points={valuePoints(report.setting.options)}
          currency={currency}
          unit={report.unit_of_gain}
          width={680}
          height={250}
          label="Gain against net cost of each way to spend money; the same figures stand in the table below"
        />
      </figure>
      <Table
        head={[
          `10 ${currency} on`,
          `net ${currency}`,
          "gain",
          `buys, ${report.bought_in}`,
          "buys most",
          "10 more buy",
          "is",
        ]}
      >
        {setting.options.map((option) => (
          <tr key={option.id ?? option.label}>
            <th scope="row">
              {option.label}
              {option.basis && <span className="aside">{option.basis}</span>}
            </th>
            <td>
              {option.cost}
              {option.cost_range && <span className="aside">{option.cost_range}</span>}
            </td>
            <td>
              {option.gain}
              {option.gain_range && <span className="aside">{option.gain_range}</span>}
              {option.expected && <span className="aside">expected {option.expected}</span>}
            </td>
            <td>{option.value}</td>
            <td>{option.chance}</td>
            <td>{option.extra}</td>
            <td>
              {option.verdict && (
                <span className={`verdict ${option.verdict}`}>
                  {verdictMark(option.verdict)} {verdictWord(option.verdict).toLowerCase()}
                </span>
              )}
              {option.is_expected && "expected"}
            </td>
          </tr>
        ))}
      </Table>
      <Lines of={[...(setting.not_drawn ? [setting.not_drawn] : []), ...report.better]} />
    </>
  );
}

function Whole({ report }: { report: Report }) {
  const { whole } = report.setting;
  if (!whole) return null;
  return (
    <section className="whole">
      <h2>{whole.title}</h2>
      <p>{whole.sentence}</p>
      {whole.with_machine && <p>{whole.with_machine}</p>}
      <Table head={["step", "net", whole.shares_of ? `share of ${whole.shares_of}` : "share"]}>
        {whole.steps.map((step) => (
          <tr key={step.swap}>
            <th scope="row">{step.label}</th>
            <td>{step.net}</td>
            <td>{step.share}</td>
          </tr>
        ))}
      </Table>
    </section>
  );
}

function Each({ row, showsRuns }: { row: ReportRow; showsRuns: boolean }) {
  const columns = columnsOf(row);
  return (
    <section>
      <div className="whole">
        <h3>
          {row.name}, {row.role}{" "}
          <span className={`verdict ${row.verdict}`}>
            {verdictMark(row.verdict)} {verdictWord(row.verdict).toLowerCase()}
          </span>
        </h3>
        <p>
          {row.before} → {row.after} {row.unit}. {row.forms.join("; ")}
          {row.interval && `. ${row.level} interval ${row.interval}`}; matters from {row.margin}
          {row.grade && `; ${row.grade}`}.
        </p>
        {showsRuns && columns.length > 0 && (
          <figure>
            <SittingDots
              columns={columns}
              band={null}
              higherIsBetter={row.higher_is_better}
              unit=""
              width={680}
              height={120}
              label={`Single runs of ${row.name}, sitting by sitting`}
            />
          </figure>
        )}
      </div>
      <ul>
        {row.remarks.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </section>
  );
}

function Changes({ title, rows, none }: { title: string; rows: Report["departures"]; none: string }) {
  return (
    <>
      <h2>{title}</h2>
      {rows.length === 0 ? (
        <p>{none}</p>
      ) : (
        <Table head={["what", "before", "after"]}>
          {rows.map((row, index) => (
            <tr key={index}>
              <th scope="row">{row.what}</th>
              <td className="before">{row.before}</td>
              <td className="after">{row.after}</td>
            </tr>
          ))}
        </Table>
      )}
    </>
  );
}

function Notes({ report, photos }: { report: Report; photos: Record<string, string> }) {
  if (report.notes.length === 0) return null;
  const pictured = report.notes.flatMap((note) => {
    const source = note.picture === null ? undefined : photos[note.picture];
    return source ? [{ text: note.text, source }] : [];
  });
  return (
    <section>
      <h2>Notes of the teardown</h2>
      <ul>
        {report.notes
          .filter(({ text }) => text)
          .map((note, index) => (
            <li key={index}>{note.text}</li>
          ))}
      </ul>
      <div className="photos">
        {pictured.map(({ text, source }) => (
          <figure key={source}>
            <img src={source} alt={text || "Photo of the teardown"} />
          </figure>
        ))}
      </div>
    </section>
  );
}
