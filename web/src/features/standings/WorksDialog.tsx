import { useState } from 'react'

import { useNoteWorks, type ScorecardList, type ScorecardPage, type Works } from '@/api/scorecards'
import { freshId } from '@/ui/freshId'
import { TextLine } from '@/ui/TextLine'

import { NoteForm, Pick } from '@/ui/NoteForm'

const ALL: readonly Works[] = ['works', 'works after a step', 'works sometimes', 'fails', 'not tried']

type Props = {
  page: ScorecardPage
  machines: ScorecardList['machines']
  onClose: () => void
  onNoted: (id: string, says: string) => void
}

/** Notes what works on a system; the word before it stays in its history. */
export function WorksDialog({ page, machines, onClose, onNoted }: Props) {
  const note = useNoteWorks(page.system_id)
  const [id] = useState(freshId)
  const [subject, setSubject] = useState('')
  const [machine, setMachine] = useState('')
  const [works, setWorks] = useState<Works>('works')
  const [step, setStep] = useState('')
  const [worked, setWorked] = useState('')
  const [tried, setTried] = useState('')
  const [words, setWords] = useState('')
  const isStep = works === 'works after a step'
  const isCounted = works === 'works sometimes'
  const submit = () =>
    note.mutate(
      {
        id,
        subject: subject.trim(),
        machine: machine || null,
        works,
        step: isStep ? step.trim() : '',
        worked: isCounted ? Number(worked) : null,
        tried: isCounted ? Number(tried) : null,
        note: words.trim(),
      },
      { onSuccess: () => onNoted(id, `Noted: ${subject.trim()} ${works}`) },
    )
  return (
    <NoteForm
      title={`What works on ${page.system}`}
      error={note.error}
      isReady={subject.trim() !== '' && !note.isPending}
      onClose={onClose}
      onSubmit={submit}
    >
      <TextLine
        label="What was tried"
        value={subject}
        onChange={setSubject}
        list="works-subjects"
        most={200}
        required
      />
      <datalist id="works-subjects">
        {[...new Set([...page.untried, ...page.works.map((line) => line.subject)])].map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <Pick label="On which machine" value={machine} all={machines} onPick={setMachine} none="any machine" />
      <Pick
        label="Whether it works"
        value={works}
        none={null}
        all={ALL.map((name) => ({ id: name, name }))}
        onPick={(name) => setWorks(name as Works)}
      />
      {isStep && <TextLine label="Which step" value={step} onChange={setStep} most={200} required />}
      {isCounted && <TextLine label="Worked, times" value={worked} onChange={setWorked} most={5} required />}
      {isCounted && <TextLine label="Tried, times" value={tried} onChange={setTried} most={5} required />}
      <TextLine label="In a few words" value={words} onChange={setWords} most={1000} />
    </NoteForm>
  )
}
