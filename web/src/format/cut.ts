/** A text cut to its room in pixels, at so many pixels a letter; eight letters always stand. */
export function cut(text: string, room: number, letter: number): string {
  const most = Math.max(8, Math.floor(room / letter))
  return text.length > most ? `${text.slice(0, most - 1)}…` : text
}
