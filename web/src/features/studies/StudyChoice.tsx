import TextField from '@mui/material/TextField'
import type { RefObject } from 'react'

import { Actions } from '@/ui/kit'
import { Select } from '@/ui/Select'

import type { Choice, Order } from './chosen'

type Props = {
  choice: Choice
  search: RefObject<HTMLInputElement | null>
  onChange: (choice: Choice) => void
}

const STATES: [string, string][] = [
  ['', 'in any state'],
  ['draft', 'drafts'],
  ['planned', 'planned'],
  ['running', 'running now'],
  ['paused', 'paused'],
  ['done', 'all runs done'],
]
const ORDERS: [Order, string][] = [
  ['newest', 'newest first'],
  ['title', 'by question'],
  ['machine', 'by machine'],
]

/** Which studies are shown, and in which order. */
export const StudyChoice = ({ choice, search, onChange }: Props) => (
  <Actions sx={{ mt: 1.5, alignItems: 'center' }}>
    <TextField
      size="small"
      label="Find by question, answer, contender, machine  ( / )"
      value={choice.typed}
      inputRef={search}
      sx={{ flex: '1 1 320px' }}
      onChange={(event) => onChange({ ...choice, typed: event.target.value })}
      onKeyDown={(event) => {
        if (event.key === 'Escape') search.current?.blur()
        if (event.key === 'Enter') document.querySelector<HTMLElement>('a.study')?.focus()
      }}
    />
    <Select
      value={choice.state}
      onChange={(event) => onChange({ ...choice, state: event.target.value })}
      inputProps={{ 'aria-label': 'State' }}
    >
      {STATES.map(([value, label]) => (
        <option key={value} value={value}>
          {label}
        </option>
      ))}
    </Select>
    <Select
      value={choice.order}
      onChange={(event) => onChange({ ...choice, order: event.target.value as Order })}
      inputProps={{ 'aria-label': 'Order' }}
    >
      {ORDERS.map(([value, label]) => (
        <option key={value} value={value}>
          {label}
        </option>
      ))}
    </Select>
  </Actions>
)
