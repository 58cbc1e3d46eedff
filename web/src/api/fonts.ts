import headings from '@fontsource-variable/bricolage-grotesque/files/bricolage-grotesque-latin-wght-normal.woff2?url'
import text from '@fontsource-variable/public-sans/files/public-sans-latin-wght-normal.woff2?url'

const FACES = [
  ['Public Sans Variable', text],
  ['Bricolage Grotesque Variable', headings],
] as const

let known: Promise<string> | null = null

/** Rules that hold the page's fonts themselves, so that a kept picture needs no other file. */
export function embeddedFonts(): Promise<string> {
  known ??= Promise.all(FACES.map(([family, address]) => face(family, address))).then((all) => all.join(''))
  return known
}

async function face(family: string, address: string): Promise<string> {
  const answer = await fetch(address)
  if (!answer.ok) throw new Error(`the font ${family} could not be had: ${answer.status}`)
  const bytes = new Uint8Array(await answer.arrayBuffer())
  let letters = ''
  for (const byte of bytes) letters += String.fromCharCode(byte)
  return `@font-face{font-family:'${family}';font-weight:200 900;src:url(data:font/woff2;base64,${btoa(letters)}) format('woff2')}`
}
