/** Hands a file to the browser's downloads. */
export function saveFile(name: string, content: string | Uint8Array, type = 'text/plain'): void {
  const part = typeof content === 'string' ? content : new Uint8Array(content);
  const charset = typeof content === 'string' ? `${type};charset=utf-8` : type;
  const url = URL.createObjectURL(new Blob([part], { type: charset }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
