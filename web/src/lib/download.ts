const LIVES_MS = 60_000;

/** Hands a text to the browser as a file to be saved. */
export function downloadText(name: string, type: string, text: string): void {
  const address = URL.createObjectURL(new Blob([text], { type: `${type};charset=utf-8` }));
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
  // The browser may still be reading it when the click returns.
  setTimeout(() => URL.revokeObjectURL(address), LIVES_MS);
}
