// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'

import { ShortcutProvider } from './ShortcutProvider'
import { useShortcuts } from './shortcuts'

afterEach(cleanup)

function Page({ onKey }: { onKey: () => void }) {
  useShortcuts([{ key: 'n', says: 'Note something', run: onKey }])
  return <input aria-label="a field" />
}

const shown = () => {
  const onKey = vi.fn()
  const page = render(
    <ShortcutProvider>
      <Page onKey={onKey} />
    </ShortcutProvider>,
  )
  return { onKey, page }
}

describe('keys of a page', () => {
  it('are heard anywhere but in a field that is typed in', () => {
    const { onKey } = shown()
    fireEvent.keyDown(document.body, { key: 'n' })
    fireEvent.keyDown(screen.getByLabelText('a field'), { key: 'n' })
    expect(onKey).toHaveBeenCalledTimes(1)
  })
  it('end with the page that offered them', () => {
    const { onKey, page } = shown()
    page.unmount()
    fireEvent.keyDown(document.body, { key: 'n' })
    expect(onKey).not.toHaveBeenCalled()
  })
  it('close the open dialog also where the focus has just been lost', async () => {
    shown()
    fireEvent.keyDown(document.body, { key: '?' })
    await screen.findByText('Note something')
    fireEvent.keyDown(document.body, { key: 'Escape' })
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
  })
  it('are listed at a question mark', async () => {
    shown()
    fireEvent.keyDown(document.body, { key: '?' })
    expect(await screen.findByText('Note something')).toBeTruthy()
  })
})
