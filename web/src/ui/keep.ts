import { foldedTo } from '@/format/table'

const SHOWN = [
  'fill',
  'stroke',
  'stroke-width',
  'stroke-dasharray',
  'stroke-linecap',
  'opacity',
  'font-family',
  'font-size',
  'font-weight',
  'text-anchor',
  'font-variant-numeric',
] as const
const NAMESPACE = 'http://www.w3.org/2000/svg'
const EDGE = 16
const SIZES = [34, 15, 13]
/** Heights of letters of headline, sentence and the rest: the first is read when the picture is small. */

type HeadLine = { text: string; size: number; y: number }

/** The lines above a picture, each in its size, folded to the width. */
export function headLines(head: readonly string[], width: number): { lines: HeadLine[]; height: number } {
  let y = EDGE
  const lines = head.flatMap((text, i) => {
    const size = SIZES[Math.min(i, SIZES.length - 1)]!
    return foldedTo(text, width - 2 * EDGE, size).map((part) => {
      y += size * 1.25
      return { text: part, size, y: y - size * 0.25 }
    })
  })
  return { lines, height: y + 10 }
}

/** All pictures of a box as one that needs nothing of the page: its looks and fonts are inside. */
export function composedPicture(
  box: HTMLElement,
  head: readonly string[],
  fonts: string,
): { text: string; width: number; height: number } {
  const frame = box.getBoundingClientRect()
  const pictures = [...box.querySelectorAll<SVGSVGElement>('svg.picture')].map((svg) => ({
    svg,
    at: svg.getBoundingClientRect(),
  }))
  if (!pictures.length) throw new Error('the picture is not drawn yet; try again in a moment')
  const { lines, height: above } = headLines(head, frame.width)
  const top = Math.min(...pictures.map((one) => one.at.top))
  const bottom = Math.max(...pictures.map((one) => one.at.bottom))
  const [width, height] = [Math.ceil(frame.width), Math.ceil(above + bottom - top + EDGE)]
  const page = getComputedStyle(box)
  const whole = document.createElementNS(NAMESPACE, 'svg')
  for (const [name, value] of Object.entries({
    xmlns: NAMESPACE,
    width,
    height,
    viewBox: `0 0 ${width} ${height}`,
  }))
    whole.setAttribute(name, String(value))
  const ground = document.createElementNS(NAMESPACE, 'rect')
  for (const [name, value] of Object.entries({ width, height, fill: page.backgroundColor }))
    ground.setAttribute(name, String(value))
  const style = document.createElementNS(NAMESPACE, 'style')
  style.textContent = fonts
  const title = document.createElementNS(NAMESPACE, 'title')
  title.textContent = head.join(' ')
  whole.append(title, style, ground, ...lines.map((line) => headLine(line, page.color)))
  for (const { svg, at } of pictures) {
    const copy = svg.cloneNode(true) as SVGSVGElement
    inlineStyles(svg, copy)
    const place = { x: at.left - frame.left, y: above + at.top - top, width: at.width, height: at.height }
    for (const [name, value] of Object.entries(place)) copy.setAttribute(name, String(value))
    whole.append(copy)
  }
  return { text: new XMLSerializer().serializeToString(whole), width, height }
}

function headLine({ text: words, size, y }: HeadLine, colour: string): SVGTextElement {
  const text = document.createElementNS(NAMESPACE, 'text')
  const looks = {
    x: EDGE,
    y,
    fill: colour,
    'font-size': size,
    'font-weight': size === SIZES[0] ? 700 : 400,
    'font-family':
      size === SIZES[0] ? "'Bricolage Grotesque Variable',sans-serif" : "'Public Sans Variable',sans-serif",
  }
  for (const [name, value] of Object.entries(looks)) text.setAttribute(name, String(value))
  text.textContent = words
  return text
}

function inlineStyles(from: Element, to: Element) {
  const looks = getComputedStyle(from)
  to.removeAttribute('class')
  const style = (to as SVGElement).style // through its object: the page allows no style in markup
  for (const name of SHOWN) {
    to.removeAttribute(name) // it may name a colour of the page
    style.setProperty(name, looks.getPropertyValue(name))
  }
  ;[...from.children].forEach((child, i) => inlineStyles(child, to.children[i]!))
}

const SHARP = 2

/** The same as pixels, two for each of the page's. */
export async function asPng(picture: { text: string; width: number; height: number }): Promise<Blob> {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(picture.text)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = picture.width * SHARP
  canvas.height = picture.height * SHARP
  canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((done, fail) =>
    canvas.toBlob(
      (blob) => (blob ? done(blob) : fail(new Error('the picture could not be drawn'))),
      'image/png',
    ),
  )
}

/** Hand a file to the person. */
export function handOut(name: string, content: Blob) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}

/** A page's own part as one file that needs no server: looks and fonts are inside. */
export function standalonePage(part: HTMLElement, title: string, fonts: string): string {
  const rules = [...document.styleSheets].flatMap((sheet) =>
    [...sheet.cssRules].filter((rule) => !(rule instanceof CSSFontFaceRule)).map((rule) => rule.cssText),
  )
  const copy = part.cloneNode(true) as HTMLElement
  for (const one of copy.querySelectorAll('button, select, .noprint')) one.remove()
  const escaped = title.replaceAll('&', '&amp;').replaceAll('<', '&lt;')
  const looks = document.documentElement.getAttribute('style') ?? ''
  return `<!doctype html><html lang="en" style="${looks.replaceAll('"', '&quot;')}"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escaped}</title><style>${fonts}${rules.join('\n')}</style><body><main>${copy.outerHTML}</main></body></html>`
}

/** A name that every file system takes. */
export const fileName = (...words: readonly string[]) =>
  words
    .join(' ')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 80)
