import { Button as Headless } from "@headlessui/react";
import type { ComponentProps, ReactNode } from "react";
import { Link } from "react-router";

const BASE =
  "inline-flex min-h-11 items-center justify-center gap-2 rounded-lg px-4 font-semibold whitespace-nowrap disabled:opacity-50";
const LOOKS = {
  main: "bg-ink text-paper hover:opacity-90",
  plain: "border border-edge bg-card text-ink hover:bg-note",
  quiet: "px-0! text-soft underline-offset-4 hover:text-ink hover:underline",
};
type Look = keyof typeof LOOKS;

export function Button({
  look = "plain",
  className = "",
  ...rest
}: ComponentProps<"button"> & { look?: Look }) {
  return <Headless type="button" className={`${BASE} ${LOOKS[look]} ${className}`} {...rest} />;
}

export function ButtonLink({
  look = "plain",
  to,
  "aria-label": label,
  children,
}: {
  look?: Look;
  to: string;
  "aria-label"?: string;
  children: ReactNode;
}) {
  return (
    <Link to={to} aria-label={label} className={`${BASE} ${LOOKS[look]}`}>
      {children}
    </Link>
  );
}
