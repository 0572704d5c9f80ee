import { downloadText } from "../../lib/download";
import { fileName, type Paper, type PaperSize } from "./model";

/** Saves a report as one file, with its photos inside. */
export async function saveAsFile(paper: Paper, size: PaperSize): Promise<void> {
  const [{ paperHtml }, photos] = await Promise.all([import("./paperHtml"), inlined(paper.photos)]);
  downloadText(fileName(paper), "text/html", paperHtml({ ...paper, photos }, size));
}

async function inlined(photos: Record<string, string>): Promise<Record<string, string>> {
  const entries = Object.entries(photos).map(async ([name, address]) => {
    const answer = await fetch(address);
    return answer.ok ? [[name, await dataAddress(await answer.blob())]] : [];
  });
  return Object.fromEntries((await Promise.all(entries)).flat()) as Record<string, string>;
}

const dataAddress = (blob: Blob): Promise<string> =>
  new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result as string);
    reader.onerror = () => reject(new Error("A photo could not be read."));
    reader.readAsDataURL(blob);
  });
