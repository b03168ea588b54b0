/** Gives a file to the browser to be kept under a name. */
export function keepFile(file: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  // The browser reads it after the click; a minute is long for that and short for the memory it holds.
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
