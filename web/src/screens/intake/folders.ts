/** Files dropped or chosen, with their paths in the folder that they came from. */
export interface Dropped {
  path: string;
  file: File;
}

const HIDDEN = /(^|\/)(\.|__MACOSX\/)/;

function entryFile(entry: FileSystemFileEntry): Promise<File> {
  return new Promise((resolve, reject) => entry.file(resolve, reject));
}

/** All entries of a folder: one call answers at most a hundred, so it is asked until nothing comes. */
async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const found: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (some.length === 0) return found;
    found.push(...some);
  }
}

async function walk(entry: FileSystemEntry, path: string, found: Dropped[]): Promise<void> {
  if (HIDDEN.test(path)) return;
  if (entry.isFile) {
    found.push({ path, file: await entryFile(entry as FileSystemFileEntry) });
    return;
  }
  for (const child of await entriesOf(entry as FileSystemDirectoryEntry)) {
    await walk(child, path ? `${path}/${child.name}` : child.name, found);
  }
}

/** What was dropped. A single folder is the root: paths start inside it, and it names the intake. */
export async function filesOfDrop(transfer: DataTransfer): Promise<{ name: string; files: Dropped[] }> {
  // Everything must be taken from the event before the first pause; later it is empty.
  const loose = [...transfer.files];
  const entries = [...transfer.items]
    .map((item) => item.webkitGetAsEntry())
    .filter((entry) => entry !== null);
  const files: Dropped[] = [];
  if (entries.length === 0) files.push(...loose.map((file) => ({ path: file.name, file })));
  const only = entries.length === 1 ? entries[0]! : null;
  if (only?.isDirectory) {
    await walk(only, "", files);
    return { name: only.name, files };
  }
  for (const entry of entries) await walk(entry, entry.name, files);
  return { name: only ? only.name : `${files.length} files`, files };
}

/** What was chosen with a file dialog; a chosen folder is the root, like a dropped one. */
export function filesOfInput(list: Iterable<File>): { name: string; files: Dropped[] } {
  const files = [...list].map((file) => ({ path: file.webkitRelativePath || file.name, file }));
  const root = files[0]?.file.webkitRelativePath ? files[0].path.split("/")[0]! : "";
  const inside = files.map((one) => ({ ...one, path: root ? one.path.slice(root.length + 1) : one.path }));
  const kept = inside.filter((one) => !HIDDEN.test(one.path));
  return { name: root || (kept.length === 1 ? kept[0]!.path : `${kept.length} files`), files: kept };
}
