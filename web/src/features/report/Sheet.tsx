import type { Report } from "../../api/client";
import { verdictMark, verdictWord } from "../../ui/Verdict";
import { FullForm } from "./FullForm";
import { Measured } from "./Measured";
import { keepUnits, type Paper } from "./model";

const LEGEND = (["real_gain", "real_loss", "no_change", "not_settled"] as const)
  .map((verdict) => `${verdictMark(verdict)} ${verdictWord(verdict).toLowerCase()}`)
  .join(" ");

/** A report as it is handed out: drawn alike on the screen, in a saved file and in print. */
export function Sheet(paper: Paper) {
  const { report, form, number } = paper;
  return (
    <article
      className={`sheet ${form}`}
      aria-label={number === null ? "Draft of the report" : `Report ${number}`}
    >
      {number === null && <p className="draft">A draft: it has no number, and nobody was handed it.</p>}
      <Head {...paper} />
      <div className="figures">
        {report.figures.map((figure) => (
          <div key={figure.label}>
            <span className="soft">{figure.label}</span>
            <b>{keepUnits(figure.value)}</b>
            <span>{figure.detail}</span>
          </div>
        ))}
      </div>
      <h2>What was measured, before and after</h2>
      <Measured rows={report.rows.filter((row) => row.role === "claim")} isBrief={form === "short"} />
      <p className="aside">
        Bars: where the true change lies, as sure as the row says; shaded: too small to matter; right of it:
        improved. {LEGEND}.
      </p>
      <HowAndBill report={report} isBrief={form === "short"} />
      {form === "full" && <FullForm {...paper} />}
      <footer>
        <span>
          Measured and written with Lynxbill.
          {form === "short" && " All runs, rules and figures stand in the full form."}
        </span>
        {report.technician && <span>technician: {report.technician}</span>}
      </footer>
    </article>
  );
}

/** Whose it is, what was asked, and the answer with all that bears on it. */
function Head({ report, number, since }: Paper) {
  return (
    <>
      <div className="mark-head">
        <span>
          <b>Upgrade report</b> · {report.machine}
          {report.owner && `, for ${report.owner}`}
        </span>
        <span className="soft">
          {number !== null && `no. ${number} · `}
          {report.made_on}
        </span>
      </div>
      {report.question && <p className="question">“{report.question}”</p>}
      {report.settles && <p className="soft">What would settle it: {report.settles}</p>}
      <h1>{keepUnits(report.answer)}</h1>
      {report.but && <p className="worse">▼ {report.but}</p>}
      <p>
        {[report.unchanged, report.untested].filter(Boolean).join(" ")}
        {report.grade && <span className="soft"> How good the evidence is: {report.grade}.</span>}
      </p>
      <ul className="notices">
        {[...report.notices, ...since.map((line) => `Since the report before: ${line}`)].map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </>
  );
}

/** How it was measured and for whom it is worth it; beside it the bill. */
function HowAndBill({ report, isBrief }: { report: Report; isBrief: boolean }) {
  return (
    <div className="two">
      <section>
        <h2>How it was measured</h2>
        <p>{report.how.join(" ")}</p>
        <p className="aside">{report.shared.join(" ")}</p>
        <h2>For whom it is worth it</h2>
        {report.own_advice && <p>{report.own_advice}</p>}
        <p>{[...report.advice.map(({ says }) => says), report.setting.payback].filter(Boolean).join(" ")}</p>
      </section>
      <section>
        <Bill report={report} isBrief={isBrief} />
        {report.next.length > 0 && <h2>Next</h2>}
        {report.next.map((line) => (
          <p key={line}>{line}</p>
        ))}
      </section>
    </div>
  );
}

function Bill({ report, isBrief }: { report: Report; isBrief: boolean }) {
  const { account } = report.setting;
  return (
    <>
      <h2>The bill</h2>
      <table>
        <tbody>
          {account.entries
            .filter((entry) => entry.counts)
            .map((entry, index) => (
              <tr key={index}>
                <th scope="row">
                  {entry.label} <span className={isBrief ? "soft" : "aside"}>{entry.detail}</span>
                </th>
                <td className="number">{entry.amount}</td>
              </tr>
            ))}
          <tr className="sum">
            <th scope="row">Net cost</th>
            <td className="number">{account.net}</td>
          </tr>
        </tbody>
      </table>
      <p>
        {[account.range && `Net ${account.range}.`, ...report.other_terms, account.apart, account.not_counted]
          .concat(account.doubts)
          .filter(Boolean)
          .join(" ")}
        {account.at_worth && ` At the worth of what was not paid: ${account.at_worth}.`}
      </p>
    </>
  );
}
