const LIVES_MS = 60_000;

/** Hands something to the browser as a file to be saved. */
export function downloadBlob(name: string, content: Blob): void {
  const address = URL.createObjectURL(content);
  const link = document.createElement("a");
  link.href = address;
  link.download = name;
  link.click();
  // The browser may still be reading it when the click returns.
  setTimeout(() => URL.revokeObjectURL(address), LIVES_MS);
}

export const downloadText = (name: string, type: string, text: string): void =>
  downloadBlob(name, new Blob([text], { type: `${type};charset=utf-8` }));
