/** Hands a file to the browser's downloads. */
export function saveFile(bytes: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(bytes);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

/** Takes away a file that the server makes; one that it cannot make leaves the page as it is. */
export function takeFile(href: string): void {
  Object.assign(document.createElement('a'), { href, download: '' }).click();
}
