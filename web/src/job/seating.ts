import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";

import { call, type Part, type SeatingIn } from "../api/client";
import type { DecimalMark } from "../lib/number";

/** What is known of a part where it sits: a sentence, and what is asked. */
export interface Seated {
  sentence: string;
  asks: readonly string[];
}

/** What parts can carry where they sit, by the part's id, and what is asked; asked of the server while it is typed. */
export function useSeating(
  parts: Part[],
  settings: SeatingIn["settings"],
  limits: SeatingIn["limits"],
  mark: DecimalMark,
): ReadonlyMap<string, Seated> {
  const body = { parts, settings: settings ?? {}, limits: limits ?? {}, decimal_mark: mark };
  const asked = useDeferredValue(JSON.stringify(body));
  const answer = useQuery({
    queryKey: ["seating", asked],
    queryFn: () => call("post", "/api/seating", {}, JSON.parse(asked) as SeatingIn),
    enabled: parts.length > 0,
    placeholderData: (last) => last,
    retry: false,
  });
  return new Map(answer.data?.map((seated) => [seated.part, seated]));
}
