import { Link } from "react-router";

import type { Reckoning } from "../../api/client";
import { TableToTake } from "../../ui/TakeAlong";
import { Verdict } from "../../ui/Verdict";

type Whole = NonNullable<Reckoning["settings"][number]["whole"]>;

/** What all swaps together cost and brought, and each step's share; a share is empty where a step lacks the measure. */
export function WholeLadder({ whole }: { whole: Whole }) {
  return (
    <section className="card space-y-2">
      <h2 className="eyebrow">{whole.title}</h2>
      <p className="wrap-anywhere">{whole.sentence}</p>
      {whole.with_machine && <p className="text-soft">{whole.with_machine}</p>}
      <Claims claims={whole.claims} />
      <TableToTake name={whole.title}>
        <table className="w-full">
          <thead className="text-left text-soft">
            <tr className="border-b border-line">
              <th className="py-1 font-medium">Step</th>
              <th className="px-2 text-right font-medium">net</th>
              <th className="text-right font-medium">
                {whole.shares_of ? `share of ${whole.shares_of}` : "share"}
              </th>
            </tr>
          </thead>
          <tbody>
            {whole.steps.map((step) => (
              <tr key={step.swap} className="border-b border-line">
                <th scope="row" className="text-left font-normal">
                  <Link
                    to={`?swap=${step.swap}`}
                    className="flex min-h-10 items-center wrap-anywhere underline"
                  >
                    {step.label}
                  </Link>
                </th>
                <td className="px-2 text-right whitespace-nowrap">{step.net}</td>
                <td className="text-right">{step.share}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </TableToTake>
    </section>
  );
}

function Claims({ claims }: { claims: Whole["claims"] }) {
  return (
    <table className="w-full">
      <thead className="sr-only">
        <tr>
          <th>Claim</th>
          <th>verdict</th>
        </tr>
      </thead>
      <tbody>
        {claims.map((claim) => (
          <tr key={claim.measure} className="border-b border-line">
            <th scope="row" className="py-1 text-left font-normal wrap-anywhere">
              {claim.name}, {claim.change}
              {claim.interval && (
                <span className="block text-sm text-soft">
                  {claim.level} sure: {claim.interval}
                </span>
              )}
            </th>
            <td className="text-right">
              <Verdict verdict={claim.verdict} provisional={claim.provisional} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
