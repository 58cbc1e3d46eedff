// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'

import { LineDialog } from './LineDialog'

afterEach(cleanup)

const shown = (onSay = vi.fn()) => {
  render(
    <LineDialog
      title="Skip it"
      label="Because"
      action="Skip"
      error={null}
      isPending={false}
      onClose={vi.fn()}
      onSay={onSay}
    />,
  )
  return onSay
}

describe('a question for one line', () => {
  it('is answered only once something is said, without blanks around it', () => {
    const onSay = shown()
    const action = screen.getByRole('button', { name: 'Skip' })
    expect(action).toHaveProperty('disabled', true)
    fireEvent.change(screen.getByLabelText(/Because/), { target: { value: '  the fan came on ' } })
    expect(action).toHaveProperty('disabled', false)
    fireEvent.click(action)
    expect(onSay).toHaveBeenCalledWith('the fan came on')
  })
})
