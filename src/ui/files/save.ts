/** Saves something that the browser made as a file. */
export function save(blob: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}

export const saveText = (text: string, name: string, type: string): void =>
  save(new Blob([text], { type }), name);
