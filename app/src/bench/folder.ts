import type { DeliveredFile } from '../session/messages.ts';

/** As far as browsers have it (File System Access). */
interface Folder {
  name: string;
  getFileHandle(
    name: string,
    options?: { create: boolean },
  ): Promise<{ createWritable(): Promise<{ write(bytes: Uint8Array): Promise<void>; close(): Promise<void>; abort(): Promise<void> }> }>;
}
type Picker = (options: { mode: 'readwrite'; id: string }) => Promise<Folder>;

const picker = () => (globalThis as { showDirectoryPicker?: Picker }).showDirectoryPicker;

/** Does this browser write into folders? */
export const hasFolders = (): boolean => picker() !== undefined;

export interface Chosen {
  folder: Folder;
  /** Files of these names are there already. */
  there: string[];
}

/** Asks for a folder, and looks which of the files are in it already. Null: none was chosen. */
export async function chooseFolder(files: readonly DeliveredFile[]): Promise<Chosen | null> {
  const folder = await picker()!({ mode: 'readwrite', id: 'jig-peel-delivery' }).catch((error: Error) => {
    if (error.name === 'AbortError') return null;
    throw error;
  });
  if (!folder) return null;
  const there: string[] = [];
  for (const { name } of files)
    await folder.getFileHandle(name).then(
      () => there.push(name),
      () => {},
    );
  return { folder, there };
}

/** Writes files into a folder, each whole or not at all. @throws Error in words */
export async function writeInto({ folder }: Chosen, files: readonly DeliveredFile[]): Promise<void> {
  for (const { name, bytes } of files) {
    try {
      const stream = await (await folder.getFileHandle(name, { create: true })).createWritable();
      await stream.write(bytes);
      await stream.close();
    } catch (error) {
      throw new Error(`“${name}” could not be written into “${folder.name}” (${(error as Error).message}). What came before it is there.`, { cause: error });
    }
  }
}
