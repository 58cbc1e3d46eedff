import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { ownMeasuresQuery, useChangeMeasure, type OwnMeasure } from '@/api/ownMeasures'
import { LinkButton, Sheet, Soft, SoftSmall, WordList } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'
import { UndoBar } from '@/ui/UndoBar'

import { MeasureDialog } from './MeasureDialog'
import { measureLine } from './ownMeasure'

type Props = { isDefining: boolean; onDefine: () => void; onClose: () => void }

/** Measures that testers defined: what each is, and what its command is called. */
export function OwnMeasures({ isDefining, onDefine, onClose }: Props) {
  const found = useQuery(ownMeasuresQuery())
  const change = useChangeMeasure()
  const [changing, setChanging] = useState<OwnMeasure | null>(null)
  const [gone, setGone] = useState<OwnMeasure | null>(null)
  const close = () => {
    setChanging(null)
    onClose()
  }
  return (
    <Sheet as="section" aria-label="Measures of your own" sx={{ p: '12px 16px' }}>
      <h2>Measures of your own</h2>
      {found.isPending && <Loading what="your measures" />}
      {found.error && <Failed error={found.error} onRetry={() => void found.refetch()} />}
      {change.error && <Failed error={change.error} />}
      {found.data?.length === 0 && (
        <Soft as="p">
          None yet. <LinkButton onClick={onDefine}>Define one</LinkButton> for what is not measured here: a
          task of yours, a meter at the wall. A command gives it, or a person reads it off.
        </Soft>
      )}
      <WordList aria-label="Measures of your own">
        {(found.data ?? []).map((one) => (
          <li key={one.key}>
            <b>{one.name}</b> <Soft>{measureLine(one)}</Soft>{' '}
            <LinkButton aria-label={`Change ${one.name}`} onClick={() => setChanging(one)}>
              Change
            </LinkButton>{' '}
            <LinkButton
              aria-label={`Take out ${one.name}`}
              onClick={() => change.mutate({ key: one.key, isAway: true }, { onSuccess: () => setGone(one) })}
            >
              Take out
            </LinkButton>
            <br />
            <SoftSmall>
              {one.says && `${one.says} · `}command <code>{one.command}</code>
            </SoftSmall>
          </li>
        ))}
      </WordList>
      {found.data && found.data.length > 0 && (
        <SoftSmall as="p" sx={{ mb: 0 }}>
          What a command stands for is said where it runs: <code>measure.NAME=COMMAND</code> in an install’s
          recipe, or <code>haremile-probe allow --measure NAME=COMMAND</code> on the machine. It prints one
          number. Without a command a person types what they read.
        </SoftSmall>
      )}
      {(isDefining || changing) && (
        <MeasureDialog key={changing?.key ?? 'new'} of={changing} onClose={close} onDefined={close} />
      )}
      {gone && (
        <UndoBar
          key={gone.key}
          says={`${gone.name} taken out of the list; its readings stay`}
          onDone={() => setGone(null)}
          onUndo={() => {
            change.mutate({ key: gone.key, isAway: false })
            setGone(null)
          }}
        />
      )}
    </Sheet>
  )
}
