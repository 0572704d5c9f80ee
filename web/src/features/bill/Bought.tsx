import type { Reckoning } from "../../api/client";
import { Verdict } from "../../ui/Verdict";

interface Props {
  claims: Reckoning["settings"][number]["claims"];
  currency: string;
}

/** Every claim with its own change, value and verdict; what got worse stands first. */
export function Bought({ claims, currency }: Props) {
  return (
    <table className="w-full">
      <thead className="text-soft">
        <tr className="border-b border-line">
          <th className="text-left font-medium">Claim</th>
          <th className="px-2 text-left font-medium">change</th>
          <th className="px-2 text-right font-medium">for 10 {currency}</th>
          <th className="text-right font-medium">verdict</th>
        </tr>
      </thead>
      <tbody>
        {claims.map((claim) => (
          <tr key={claim.measure} className="border-b border-line">
            <th scope="row" className="py-1.5 text-left font-normal wrap-anywhere">
              {claim.name}
            </th>
            <td className="px-2 py-1.5">
              {claim.change}
              <span className="block text-sm text-soft">
                {claim.both}
                {claim.interval && `; ${claim.level} sure: ${claim.interval}`}
              </span>
            </td>
            <td className="px-2 py-1.5 text-right xl:min-w-52">{claim.value}</td>
            <td className="py-1.5 text-right">
              <Verdict verdict={claim.verdict} provisional={claim.provisional} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
