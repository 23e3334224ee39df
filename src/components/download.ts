/** Hands the browser a file that was made in the page. */
export function download(name: string, file: Blob): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name.replace(/[\\/:*?"<>|]+/g, "-");
  link.click();
  // Not at once: some browsers begin to read only after the click has been dealt with.
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
