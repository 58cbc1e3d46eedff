import TextField from '@mui/material/TextField'

type Props = {
  helper: string
  source: string
  on: string
  onSource: (text: string) => void
  onDate: (day: string) => void
}

/** Where something is stated, and the day it was read there. */
export const SourceFields = ({ helper, source, on, onSource, onDate }: Props) => (
  <>
    <TextField
      label="Source"
      helperText={helper}
      value={source}
      required
      onChange={(event) => onSource(event.target.value)}
      slotProps={{ htmlInput: { maxLength: 200 } }}
    />
    <TextField
      label="Read on"
      type="date"
      value={on}
      onChange={(event) => onDate(event.target.value)}
      slotProps={{ inputLabel: { shrink: true } }}
    />
  </>
)
