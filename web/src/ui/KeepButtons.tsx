import { styled } from '@mui/material/styles'
import { useState, type RefObject } from 'react'

import { asPng, composedPicture, fileName, handOut } from './keep'
import { KeyHint } from './KeyHint'
import { Plain } from './kit'
import { useShortcuts } from './shortcuts'

type Props = {
  box: RefObject<HTMLElement | null>
  /** The finding in a few words, in a sentence, then unit, number of runs and machine. */
  head: readonly string[]
  name: readonly string[]
  data: () => string
  /** Rules that hold the page’s fonts, so that a kept picture needs no other file. */
  fonts: () => Promise<string>
  /** Whether a picture is shown; else there is none to keep. */
  hasPicture: boolean
}

const EDGE = 120

const Keep = styled('span')({
  display: 'inline-flex',
  gap: '4px 16px',
  flexWrap: 'wrap',
  alignItems: 'baseline',
})

/** Of several pictures one below the other, keys mean the first that is still in view. */
function press(what: string) {
  const buttons = [...document.querySelectorAll<HTMLElement>(`[data-keep=${what}]`)]
  const inView = buttons.find((one) => one.getBoundingClientRect().bottom > EDGE)
  ;(inView ?? buttons.at(-1))?.click()
}

/** Keeps the pictures of a box as SVG or PNG, their data as CSV, and their sentence on the clipboard. */
export function KeepButtons({ box, head, name, data, fonts, hasPicture }: Props) {
  const [said, setSaid] = useState('')
  const doing = (what: string, work: () => Promise<void>) => () =>
    void work().then(
      () => setSaid(what),
      (error: Error) => setSaid(error.message),
    )
  const picture = async () => composedPicture(box.current!, head, await fonts())
  const svg = doing('picture saved', async () =>
    handOut(`${fileName(...name)}.svg`, new Blob([(await picture()).text], { type: 'image/svg+xml' })),
  )
  const png = doing('picture saved', async () =>
    handOut(`${fileName(...name)}.png`, await asPng(await picture())),
  )
  const csv = doing('data saved', async () =>
    handOut(`${fileName(...name)}.csv`, new Blob([data()], { type: 'text/csv' })),
  )
  const copy = doing('sentence copied', () => navigator.clipboard.writeText(head[1]!))
  useShortcuts([
    ...(hasPicture
      ? [
          { key: 's', says: 'Save the picture (SVG)', run: () => press('svg') },
          { key: 'S', shown: '⇧ S', says: 'Save the picture (PNG)', run: () => press('png') },
        ]
      : []),
    { key: 'd', says: 'Save the data (CSV)', run: () => press('csv') },
    { key: 'y', says: 'Copy the sentence', run: () => press('copy') },
  ])
  return (
    <Keep>
      {hasPicture && (
        <Plain data-keep="svg" onClick={svg}>
          Save picture
          <KeyHint name="S" />
        </Plain>
      )}
      {hasPicture && (
        <Plain data-keep="png" onClick={png}>
          PNG
          <KeyHint name="⇧ S" />
        </Plain>
      )}
      <Plain data-keep="csv" onClick={csv}>
        Data
        <KeyHint name="D" />
      </Plain>
      <Plain data-keep="copy" onClick={copy}>
        Copy sentence
        <KeyHint name="Y" />
      </Plain>
      <span role="status">{said}</span>
    </Keep>
  )
}
