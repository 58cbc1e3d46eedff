/** Whether a text holds every word that was typed, in any order and without regard to case. */
export function holdsAll(text: string, typed: string): boolean {
  const inText = text.toLowerCase()
  return typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => inText.includes(word))
}
