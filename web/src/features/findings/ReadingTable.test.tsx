// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, beforeAll, describe, expect, it } from 'vitest'

import { columns, row } from '@/charts/layout/testRow'

import { ReadingTable } from './ReadingTable'

beforeAll(() => {
  Element.prototype.scrollIntoView = () => undefined
  Element.prototype.scrollTo = () => undefined
})
afterEach(cleanup)

const NAMES = new Map([
  [1, 'Varrow 12'],
  [2, 'Quillfern 8'],
])

const lines = () => {
  render(
    <QueryClientProvider client={new QueryClient()}>
      <ReadingTable row={row()} columns={columns()} names={NAMES} />
    </QueryClientProvider>,
  )
  return screen.getAllByRole('row').slice(1)
}

describe('the readings of a row', () => {
  it('are those that bear its key, and the first has the focus', () => {
    const found = lines()
    expect(found.map((line) => line.textContent)).toEqual([
      '1Varrow 1213.00 sEvidence',
      '1Quillfern 820.00 sEvidence',
      '2Varrow 1210.00 slidEvidence',
    ])
    expect(document.activeElement).toBe(found[0])
  })
  it('are walked through by the arrow keys, and no further than they go', () => {
    const found = lines()
    fireEvent.keyDown(found[0]!, { key: 'ArrowDown' })
    expect(document.activeElement).toBe(found[1])
    fireEvent.keyDown(found[1]!, { key: 'ArrowUp' })
    fireEvent.keyDown(found[0]!, { key: 'ArrowUp' })
    expect(document.activeElement).toBe(found[0])
  })
})
