import Autocomplete from '@mui/material/Autocomplete'
import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import TextField from '@mui/material/TextField'
import { useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'

import { studiesQuery } from '@/api/queries'
import { thingsQuery } from '@/api/things'
import { holdsAll } from '@/format/typed'

import { placesOf } from './places'

const MOST_SHOWN = 50

type Props = { pages: readonly { path: string; label: string }[]; onClose: () => void }

/** Goes to a study, a system, a machine or a page by what is typed of its name. */
export function Finder({ pages, onClose }: Props) {
  const navigate = useNavigate()
  const studies = useQuery(studiesQuery())
  const systems = useQuery(thingsQuery('systems'))
  const machines = useQuery(thingsQuery('machines'))
  const places = placesOf(pages, studies.data ?? [], systems.data ?? [], machines.data ?? [])
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-label="Find">
      <DialogContent sx={{ minHeight: 420 }}>
        <Autocomplete
          open
          autoHighlight
          clearOnBlur={false}
          onClose={(_, why) => why === 'escape' && onClose()}
          options={places}
          loading={studies.isPending || systems.isPending || machines.isPending}
          groupBy={(place) => place.kind}
          getOptionLabel={(place) => place.name}
          getOptionKey={(place) => place.to}
          filterOptions={(found, { inputValue }) =>
            found.filter((place) => holdsAll(place.words, inputValue)).slice(0, MOST_SHOWN)
          }
          noOptionsText="Nothing is called so."
          onChange={(_, place) => {
            if (!place) return
            onClose()
            void navigate(place.to)
          }}
          renderInput={(asked) => (
            <TextField {...asked} autoFocus label="Find a study, system, machine or page" />
          )}
        />
      </DialogContent>
    </Dialog>
  )
}
