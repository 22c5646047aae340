import { create } from 'zustand';
import { chooseFiles, SCENE_FILES } from './choose';

export interface Given {
  path: string;
  file: File;
}

interface ImportState {
  /** Files that are being brought in; null while none are. */
  files: Given[] | null;
  take: (files: Given[]) => void;
  /** Lets the user choose files. */
  open: () => Promise<void>;
  done: () => void;
}

/** Files on their way into a shot, wherever they were dropped or chosen. */
export const useImport = create<ImportState>((set) => ({
  files: null,
  take: (files) => set({ files: files.length > 0 ? files : null }),
  open: async () => {
    const files = await chooseFiles(SCENE_FILES, true);
    if (files.length > 0) set({ files: files.map((file) => ({ path: file.webkitRelativePath || file.name, file })) });
  },
  done: () => set({ files: null }),
}));

/** All files below what was dropped, with their paths. */
export async function droppedFiles(transfer: DataTransfer): Promise<Given[]> {
  const entries = [...transfer.items].flatMap((i) => i.webkitGetAsEntry() ?? []);
  const out: Given[] = [];
  const walk = async (entry: FileSystemEntry): Promise<void> => {
    if (entry.isFile) {
      const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
      out.push({ path: entry.fullPath.replace(/^\//, ''), file });
      return;
    }
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
      if (part.length === 0) return;
      for (const e of part) await walk(e);
    }
  };
  const plain = [...transfer.files];
  for (const e of entries) await walk(e);
  // Some sources give files without entries.
  if (entries.length === 0) out.push(...plain.map((file) => ({ path: file.name, file })));
  return out;
}
