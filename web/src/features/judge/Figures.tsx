import type { Comparison, Worded } from "../../api/client";
import { TableToTake } from "../../ui/TakeAlong";

interface Props {
  statistics: Comparison["statistics"][string] | undefined;
  worded: Worded;
  /** What the measure is called. */
  name: string;
}

/** What a customer never asks for: spread, rule, p and companions. */
export function ForTheNext({ statistics, worded, name }: Props) {
  if (!statistics || (statistics.sides.length === 0 && !statistics.rule)) return null;
  return (
    <details>
      <summary className="flex min-h-11 cursor-pointer items-center font-semibold">
        For the next technician: spread, rule, p, companions
      </summary>
      <div className="space-y-4">
        <TableToTake name={`${name}, each side in figures`}>
          <EachSide sides={statistics.sides} unit={worded.unit} />
        </TableToTake>
        {statistics.rule && (
          <section>
            <h3 className="eyebrow mb-1">How this was judged</h3>
            <p className="mb-2 text-soft">{statistics.rule}</p>
            <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
              {statistics.figures.map(({ name, value }) => (
                <div key={name} className="contents">
                  <dt className="text-soft">{name}</dt>
                  <dd className="text-right whitespace-nowrap">{value}</dd>
                </div>
              ))}
            </dl>
          </section>
        )}
      </div>
    </details>
  );
}

/** Count, middle and spread of both sides; the single runs stand above. */
function EachSide({ sides, unit }: { sides: NonNullable<Props["statistics"]>["sides"]; unit: string }) {
  if (sides.length === 0) return null;
  return (
    <section>
      <h3 className="eyebrow mb-1">Each side in figures{unit && `, ${unit}`}</h3>
      <table className="w-full">
        <thead>
          <tr>
            <td />
            <th className="text-right font-medium text-before">before</th>
            <th className="text-right font-medium text-after">after</th>
          </tr>
        </thead>
        <tbody>
          {sides.map(({ name, before, after }) => (
            <tr key={name}>
              <th scope="row" className="text-left font-normal text-soft">
                {name}
              </th>
              <td className="text-right">{before}</td>
              <td className="text-right">{after}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
