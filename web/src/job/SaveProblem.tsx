import { Refused } from "../api/client";
import { Button } from "../ui/Button";
import { Note } from "../ui/Note";

interface Props {
  error: Error | null;
  /** Drops what was typed here and shows what stands there. */
  onTakeTheirs: () => void;
  /** Saves what was typed here over it, knowing that version. */
  onKeepMine: (version: number) => void;
}

/** Why a save failed; where another device was first, what stands there now and the two ways on. */
export function SaveProblem({ error, onTakeTheirs, onKeepMine }: Props) {
  if (!error) return null;
  const stale = error instanceof Refused ? error.stale : null;
  if (!stale) return <Note alert>{error.message}</Note>;
  return (
    <Note alert>
      <p>
        <b className="font-semibold">Another device saved this first.</b> What you typed is still here.
      </p>
      <dl className="my-2 grid grid-cols-[auto_1fr] gap-x-3">
        {Object.entries(stale.current).map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name.replaceAll("_", " ")} is now</dt>
            <dd className="font-semibold break-words">{value || "empty"}</dd>
          </div>
        ))}
      </dl>
      <div className="flex flex-wrap gap-2">
        <Button onClick={onTakeTheirs}>Take what stands there</Button>
        <Button onClick={() => onKeepMine(stale.version)}>Save mine over it</Button>
      </div>
    </Note>
  );
}
