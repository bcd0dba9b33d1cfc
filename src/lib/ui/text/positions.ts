/** Places in a file and in its editor: the editor counts a line's end as one, a text with CRLF as two. */

/** The offset in the text of a position of the editor. */
export function toOffset(text: string, position: number): number {
  if (!text.includes('\r')) return position;
  let offset = 0;
  for (let seen = 0; seen < position && offset < text.length; seen++)
    offset += text[offset] === '\r' && text[offset + 1] === '\n' ? 2 : 1;
  return offset;
}

/** The position in the editor of an offset of the text. */
export const toPosition = (text: string, offset: number): number =>
  text.includes('\r') ? offset - (text.slice(0, offset).match(/\r\n/g)?.length ?? 0) : offset;
