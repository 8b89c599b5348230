/** Hand a picture to the browser as a file. href: the picture itself, as a data address. */
export function savePicture(href: string, name: string): void {
  const link = document.createElement("a");
  link.href = href;
  link.download = name;
  link.click();
}
