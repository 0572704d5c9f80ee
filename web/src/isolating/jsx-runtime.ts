import { Fragment, jsx as make, type JSX, jsxs as makeAll } from "react/jsx-runtime";

import { isolated } from "../lib/bidi";

/**
 * What JSX becomes: React's own, but every text that is shown passes one place, so that no name can turn what stands
 * beside it, whatever screen or sentence it stands in.
 */
function shown<Props>(props: Props): Props {
  const { children } = props as { children?: unknown };
  if (typeof children === "string") return { ...props, children: isolated(children) };
  if (!Array.isArray(children)) return props;
  const all = (children as unknown[]).map((child) => (typeof child === "string" ? isolated(child) : child));
  return { ...props, children: all };
}

export const jsx: typeof make = (type, props, key) => make(type, shown(props), key);
export const jsxs: typeof makeAll = (type, props, key) => makeAll(type, shown(props), key);
export { Fragment };
export type { JSX };
