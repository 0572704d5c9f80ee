import type { Reckoning } from "../../api/client";

/** Every cost line as it was booked, the sum, and what is in no sum. */
export function Account({ account }: { account: Reckoning["settings"][number]["account"] }) {
  return (
    <div>
      <h2 className="eyebrow mb-1">What it cost</h2>
      <table className="w-full">
        <tbody>
          {account.entries.map((entry, index) => (
            <tr key={index} className={`border-b border-line ${entry.counts ? "" : "text-soft"}`}>
              <th scope="row" className="py-1.5 text-left font-normal wrap-anywhere">
                {entry.label}
                <span className="block text-sm text-soft">{entry.detail}</span>
              </th>
              <td className="pt-1.5 text-right align-top whitespace-nowrap">
                {entry.counts ? entry.amount : `(${entry.amount})`}
              </td>
            </tr>
          ))}
          <tr className="border-t-2 border-ink font-bold">
            <th scope="row" className="pt-2 text-left">
              Net cost
            </th>
            <td className="pt-2 text-right whitespace-nowrap">{account.net}</td>
          </tr>
        </tbody>
      </table>
      <div className="mt-1 space-y-1 text-sm text-soft">
        {account.entries.length === 0 && <p>No cost lines yet. What cost nothing gets a line of 0.00.</p>}
        {account.range && <p>{account.range}</p>}
        {account.at_worth && <p>At the worth of what was not paid: {account.at_worth}</p>}
        {account.apart && <p>{account.apart}</p>}
        {account.not_counted && <p>{account.not_counted}</p>}
        {account.doubts.map((doubt) => (
          <p key={doubt} className="text-ink">
            {doubt}
          </p>
        ))}
      </div>
    </div>
  );
}
