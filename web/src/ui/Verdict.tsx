import type { VerdictWord } from "../api/client";

/** A verdict is a shape, a word and a colour, never colour alone. */
const LOOKS: Record<VerdictWord, { mark: string; word: string; tone: string }> = {
  real_gain: { mark: "▲", word: "Real gain", tone: "text-gain border-current" },
  real_loss: { mark: "▼", word: "Real loss", tone: "text-loss border-current" },
  no_change: { mark: "■", word: "No change", tone: "text-flat border-current" },
  not_settled: { mark: "◇", word: "Not settled", tone: "text-open border-current border-dashed" },
  untested: { mark: "○", word: "Untested", tone: "text-soft border-line border-dotted" },
};

export const verdictWord = (verdict: VerdictWord): string => LOOKS[verdict].word;

export const verdictMark = (verdict: VerdictWord): string => LOOKS[verdict].mark;

export const verdictColour = (verdict: VerdictWord): string =>
  ({
    real_gain: "var(--gain)",
    real_loss: "var(--loss)",
    no_change: "var(--flat)",
    not_settled: "var(--open)",
    untested: "var(--soft)",
  })[verdict];

interface Props {
  verdict: VerdictWord;
  provisional?: boolean;
  /** There are readings of the after-side alone: nothing to compare them with. */
  afterOnly?: boolean;
}

export function Verdict({ verdict, provisional = false, afterOnly = false }: Props) {
  const { mark, word, tone } = LOOKS[verdict];
  return (
    <span
      className={`inline-flex items-center gap-1.5 rounded-md border px-2 py-0.5 font-semibold whitespace-nowrap ${tone}`}
    >
      <span aria-hidden>{mark}</span>
      {afterOnly && verdict === "untested" ? "After only" : word}
      {provisional && <span className="font-normal">provisional</span>}
    </span>
  );
}
