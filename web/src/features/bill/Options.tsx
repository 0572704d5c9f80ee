import { Link } from "react-router";

import { Verdict } from "../../ui/Verdict";
import type { Setting } from "./model";

interface Props {
  setting: Setting;
  current: string;
  currency: string;
  /** What is bought: "% speed", "K". */
  boughtIn: string;
}

/** Every way to spend money, with the figures that the picture draws. */
export function Options({ setting, current, currency, boughtIn }: Props) {
  const { options } = setting;
  const hasExpected = options.some(({ expected }) => expected);
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="w-full">
        <thead className="text-left align-bottom text-soft">
          <tr className="border-b border-line">
            <th className="py-1 font-medium">10 {currency} on</th>
            <th className="px-2 text-right font-medium">net {currency}</th>
            <th className="px-2 text-right font-medium">gain</th>
            {hasExpected && <th className="px-2 text-right font-medium">was expected</th>}
            <th className="px-2 text-right font-medium">buys, {boughtIn}</th>
            <th className="px-2 text-right font-medium">buys most</th>
            <th className="px-2 text-right font-medium">10 more buy, {boughtIn}</th>
            <th className="pl-2 font-medium">is</th>
          </tr>
        </thead>
        <tbody>
          {options.map((option) => (
            <OptionRow
              key={option.id ?? option.label}
              option={option}
              isCurrent={option.id === current}
              hasExpected={hasExpected}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

interface RowProps {
  option: Setting["options"][number];
  isCurrent: boolean;
  hasExpected: boolean;
}

function OptionRow({ option, isCurrent, hasExpected }: RowProps) {
  return (
    <tr className={`border-b border-line ${isCurrent ? "bg-note" : ""}`}>
      <th scope="row" className="py-1 text-left font-normal wrap-anywhere">
        {option.kind === "swap" ? (
          <Link
            to={`?swap=${option.id ?? ""}`}
            className="flex min-h-10 items-center underline"
            aria-current={isCurrent ? "true" : undefined}
          >
            {option.label}
          </Link>
        ) : (
          option.label
        )}
        {option.basis && <span className="text-sm text-soft"> {option.basis}</span>}
      </th>
      <td className="px-2 text-right">
        <span className="whitespace-nowrap">{option.cost}</span>
        {option.cost_range && (
          <span className="block text-sm whitespace-nowrap text-soft">{option.cost_range}</span>
        )}
      </td>
      <td className="px-2 text-right">
        <span className="whitespace-nowrap">{option.gain}</span>
        {option.gain_range && (
          <span className="block text-sm whitespace-nowrap text-soft">{option.gain_range}</span>
        )}
      </td>
      {hasExpected && <td className="px-2 text-right">{option.expected ?? "–"}</td>}
      <td className="px-2 text-right font-semibold">{option.value}</td>
      <td className="px-2 text-right whitespace-nowrap">{option.chance}</td>
      <td className="px-2 text-right">{option.extra}</td>
      <td className="py-1 pl-2">
        {option.verdict && <Verdict verdict={option.verdict} provisional={option.provisional} />}
        {option.is_expected && <span className="text-soft">expected</span>}
      </td>
    </tr>
  );
}
