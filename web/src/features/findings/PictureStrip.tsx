import { styled } from '@mui/material/styles'
import Tab from '@mui/material/Tab'
import Tabs from '@mui/material/Tabs'

import { KeyHint } from '@/ui/KeyHint'

export type Choice = { id: string; label: string }

type Props = {
  label: string
  choices: readonly Choice[]
  chosen: string
  keyName?: string
  onChoose: (id: string) => void
}

const Strip = styled('div')({ display: 'inline-flex', gap: 4, flexWrap: 'wrap', alignItems: 'center' })

/** What can be looked at, one of it chosen. */
export function PictureStrip({ label, choices, chosen, keyName, onChoose }: Props) {
  const isKnown = choices.some((choice) => choice.id === chosen)
  return (
    <Strip className="noprint">
      <Tabs value={isKnown ? chosen : false} onChange={(_, id: string) => onChoose(id)} aria-label={label}>
        {choices.map((choice) => (
          <Tab key={choice.id} value={choice.id} label={choice.label} />
        ))}
      </Tabs>
      {keyName && <KeyHint name={keyName} />}
    </Strip>
  )
}
