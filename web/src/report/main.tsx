import { createRoot } from 'react-dom/client'

import { ReportFigure, type Figure, type LaneShown } from '@/charts/ReportFigure'

type Held = { lanes: LaneShown[]; figures: (Figure | null)[] }

const PRINTED = 690
/** Pixels of a page of paper between its margins. */

/** Draws the pictures of the file in which this stands, as wide as there is room. */
function draw(held: Held) {
  for (const box of document.querySelectorAll<HTMLElement>('[data-figure]')) {
    const figure = held.figures[Number(box.dataset.figure)]
    if (!figure) continue
    const root = createRoot(box)
    const fit = (width: number) =>
      root.render(<ReportFigure figure={figure} lanes={held.lanes} width={Math.max(width, 280)} />)
    fit(box.clientWidth)
    new ResizeObserver(() => fit(box.clientWidth)).observe(box)
    matchMedia('print').addEventListener('change', (print) =>
      fit(print.matches ? Math.min(PRINTED, box.clientWidth) : box.clientWidth),
    )
  }
}

/** A figure's readings are folded away until somebody follows it there. */
function open() {
  const target = document.getElementById(window.location.hash.slice(1))
  if (!(target instanceof HTMLDetailsElement)) return
  target.open = true
  target.querySelector('summary')?.focus()
}

draw(JSON.parse(document.getElementById('figures')!.textContent) as Held)
window.addEventListener('hashchange', open)
open()
