import { type RefObject, useEffect, useRef } from "react";

/** What a technician does who has looked elsewhere by then. */
const MOVES = ["wheel", "touchmove", "pointerdown", "keydown"] as const;

/**
 * Brings something up that stands below what was chosen in, as on a tablet; without it choosing would seem to do nothing.
 *
 * What comes in above it later, as the heat does, would push it down again: it is kept up until somebody moves on.
 */
export function useBringUp(above: RefObject<HTMLElement | null>, below: RefObject<HTMLElement | null>) {
  const isWanted = useRef(false);
  const bring = () => {
    const top = below.current?.getBoundingClientRect().top ?? 0;
    if (top > 0.8 * window.innerHeight) below.current?.scrollIntoView();
  };
  useEffect(() => {
    const grown = new ResizeObserver(() => {
      if (isWanted.current) bring();
    });
    if (above.current) grown.observe(above.current);
    const leave = () => {
      isWanted.current = false;
    };
    for (const move of MOVES) window.addEventListener(move, leave, { capture: true, passive: true });
    return () => {
      grown.disconnect();
      for (const move of MOVES) window.removeEventListener(move, leave, { capture: true });
    };
  });
  return () => {
    isWanted.current = true;
    bring();
  };
}
