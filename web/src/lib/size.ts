/** How large a file is, in words. */

const words = (bytes: number) =>
  bytes >= 2 ** 20 ? `${(bytes / 2 ** 20).toFixed(1)} MB` : `${Math.ceil(bytes / 1024)} kB`;

/** What to say of a file that is larger than is taken in; null where it is not. */
export function tooLarge(file: File | null, most: number | undefined): string | null {
  if (!file || most === undefined || file.size <= most) return null;
  return `${file.name} has ${words(file.size)}; at most ${words(most)} are taken in.`;
}
