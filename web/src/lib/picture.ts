const LONGEST_SIDE = 1600;
const QUALITY = 0.85;

/** The size that a picture is sent in: its longest side at most 1600 pixels. */
export function fitWithin(width: number, height: number): [number, number] {
  const scale = Math.min(1, LONGEST_SIDE / Math.max(width, height));
  return [Math.round(width * scale), Math.round(height * scale)];
}

/** A photo made small enough to keep, as JPEG; without the place and time that a camera writes into it. */
export async function shrinkPicture(file: File): Promise<Blob> {
  const bitmap = await createImageBitmap(file);
  const [width, height] = fitWithin(bitmap.width, bitmap.height);
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = height;
  canvas.getContext("2d")?.drawImage(bitmap, 0, 0, width, height);
  bitmap.close();
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (blob) => (blob ? resolve(blob) : reject(new Error("The picture could not be made smaller."))),
      "image/jpeg",
      QUALITY,
    ),
  );
}
