import Button from '@mui/material/Button'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { useChangeStudy } from '@/api/corrections'
import { fetchFile } from '@/api/files'
import { packageAddress } from '@/api/packages'
import { useDuplicateStudy } from '@/api/queries'
import type { Study } from '@/api/types'
import { fileName, handOut } from '@/ui/keep'
import { KeyHint } from '@/ui/KeyHint'
import { later } from '@/ui/later'
import { LineDialog } from '@/ui/LineDialog'
import { useShortcuts } from '@/ui/shortcuts'
import { Failed } from '@/ui/States'
import { UndoBar } from '@/ui/UndoBar'

const FilesDialog = later(() => import('./FilesDialog').then((module) => module.FilesDialog), 'dialog')
const HistoryDialog = later(() => import('./HistoryDialog').then((module) => module.HistoryDialog), 'dialog')

type Open = 'rename' | 'files' | 'history' | 'duplicate' | null

/** What is done to a study as a whole, and seldom: rename, look what was brought in and done, put away. */
export function StudyMore({ study }: { study: Study }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null)
  const [open, setOpen] = useState<Open>(null)
  const [before, setBefore] = useState<string | null>(null)
  const change = useChangeStudy(study.id)
  const again = useDuplicateStudy(study.id)
  const navigate = useNavigate()
  const hand = useMutation({
    mutationFn: async () =>
      handOut(`${fileName('study', study.title)}.zip`, await fetchFile(packageAddress(study.id))),
  })
  useShortcuts([
    ...(study.draft
      ? []
      : [{ key: 'x', says: 'Hand this study on as a package', run: () => !hand.isPending && hand.mutate() }]),
    ...(study.draft ? [] : [{ key: 'F2', says: 'Rename the study', run: () => setOpen('rename') }]),
    ...(study.draft
      ? []
      : [
          {
            key: 'k',
            says: 'Type readings in',
            run: () => void navigate(`/studies/${study.id}/typing`),
          },
        ]),
    { key: 'h', says: 'History: what was done to this study', run: () => setOpen('history') },
  ])
  const choose = (next: Open) => {
    setAnchor(null)
    setOpen(next)
  }
  const rename = (title: string) =>
    change.mutate(
      { title },
      {
        onSuccess: () => {
          setBefore(study.title)
          setOpen(null)
        },
      },
    )
  const close = () => setOpen(null)
  return (
    <>
      <Button
        variant="outlined"
        color="inherit"
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        More
      </Button>
      {hand.error && <Failed error={hand.error} />}
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        {!study.draft && (
          <MenuItem
            disabled={hand.isPending}
            onClick={() => {
              setAnchor(null)
              hand.mutate()
            }}
          >
            {hand.isPending ? 'Writing the package …' : 'Hand on as a package'} <KeyHint name="X" />
          </MenuItem>
        )}
        {!study.draft && (
          <MenuItem onClick={() => choose('rename')}>
            Rename <KeyHint name="F2" />
          </MenuItem>
        )}
        {!study.draft && (
          <MenuItem
            onClick={() => {
              setAnchor(null)
              void navigate(`/studies/${study.id}/typing`)
            }}
          >
            Type readings in <KeyHint name="K" />
          </MenuItem>
        )}
        <MenuItem onClick={() => choose('history')}>
          History <KeyHint name="H" />
        </MenuItem>
        {!study.draft && <MenuItem onClick={() => choose('files')}>Files brought in</MenuItem>}
        {(study.draft || study.procedures.length > 0) && (
          <MenuItem onClick={() => choose('duplicate')}>Duplicate the plan</MenuItem>
        )}
        <MenuItem
          disabled={study.state === 'running' || study.is_put_away}
          onClick={() => {
            setAnchor(null)
            change.mutate({ is_put_away: true })
          }}
        >
          Put away
        </MenuItem>
      </Menu>
      {open === 'rename' && (
        <LineDialog
          title="Rename the study"
          label="The question"
          initial={study.title}
          action="Rename"
          error={change.error}
          isPending={change.isPending}
          onClose={close}
          onSay={rename}
        >
          The old title stays in the study’s history.
        </LineDialog>
      )}
      {open === 'duplicate' && (
        <LineDialog
          title="Duplicate the plan"
          label="The question"
          initial={`${study.title} (again)`}
          action="Make the draft"
          error={again.error}
          isPending={again.isPending}
          onClose={close}
          onSay={(title) =>
            again.mutate(title, { onSuccess: (made) => void navigate(`/studies/${made.id}/plan`) })
          }
        >
          A draft with the same contenders, procedures, repeats and margins, in which everything can still be
          changed; none of its runs or readings.
        </LineDialog>
      )}
      {open === 'files' && <FilesDialog study={study} onClose={close} />}
      {open === 'history' && <HistoryDialog study={study} onClose={close} />}
      {before !== null && (
        <UndoBar
          says="The study is renamed."
          onUndo={() => change.mutate({ title: before }, { onSuccess: () => setBefore(null) })}
          onDone={() => setBefore(null)}
        />
      )}
    </>
  )
}
