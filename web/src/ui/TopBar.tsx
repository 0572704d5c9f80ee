import { type ReactNode, useEffect, useState } from "react";
import { Link } from "react-router";

import { useKeys } from "../lib/keys";
import { ButtonLink } from "./Button";
import { KeysButton, KeysDialog } from "./KeysDialog";

interface Props {
  context: string;
  /** What the page is called in the browser's own tab, before its context. */
  page?: string;
  children: ReactNode;
}

/** The bar at the head of every screen, which also names the page. */
export function TopBar({ context, page = "", children }: Props) {
  const title = [page, context, "Lynxbill"].filter(Boolean).join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
  return (
    <header className="flex min-h-14 flex-wrap items-center gap-x-5 gap-y-1 border-b border-line bg-card px-5 py-1 print:hidden">
      <Link to="/" className="flex min-h-11 items-center gap-2 text-lg font-bold tracking-tight">
        <span aria-hidden className="grid size-3 place-items-center rounded-full bg-eye">
          <span className="h-2 w-0.5 rounded-full bg-black" />
        </span>
        Lynxbill
      </Link>
      <span className="max-w-80 truncate text-soft" title={context}>
        {context}
      </span>
      {children}
    </header>
  );
}

/** The bar of a page that belongs to no machine; without actions of its own, the way back is to all of them. */
export function TopBarHome({ context, children }: { context: string; children?: ReactNode }) {
  const [showKeys, setShowKeys] = useState(false);
  useKeys({ "?": () => setShowKeys(true) });
  return (
    <>
      <TopBar context={context}>
        <span className="ml-auto flex flex-wrap items-center justify-end gap-3">
          {children ?? (
            <ButtonLink look="quiet" to="/">
              All machines
            </ButtonLink>
          )}
          <KeysButton onOpen={() => setShowKeys(true)} />
        </span>
      </TopBar>
      <KeysDialog open={showKeys} onClose={() => setShowKeys(false)} />
    </>
  );
}
