import type { SxProps } from '@mui/material/styles'
import TextField from '@mui/material/TextField'

const USUAL_MOST = 100

type Props = {
  label: string
  value: string
  onChange: (text: string) => void
  required?: boolean
  /** Characters that are taken. */
  most?: number
  /** The list of what is offered, by its id. */
  list?: string
  sx?: SxProps
}

/** One line of text. */
export const TextLine = ({ label, value, onChange, required, most = USUAL_MOST, list, sx }: Props) => (
  <TextField
    size="small"
    label={label}
    value={value}
    required={required}
    sx={sx}
    onChange={(event) => onChange(event.target.value)}
    slotProps={{ htmlInput: { maxLength: most, list } }}
  />
)
