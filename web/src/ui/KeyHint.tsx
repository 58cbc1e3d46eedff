import { styled } from '@mui/material/styles'

/** A key of the keyboard. */
export const Key = styled('kbd')({
  font: "600 11px 'Public Sans Variable',sans-serif",
  border: '1px solid var(--hm-rule)',
  borderBottomWidth: 2,
  borderRadius: 4,
  padding: '1px 5px',
  backgroundColor: 'var(--hm-sheet)',
  color: 'var(--hm-ink)',
  marginLeft: 4,
  whiteSpace: 'nowrap',
})

const Beside = styled(Key)({ '@media screen and (max-width:600px)': { display: 'none' } })

/** The key that does the same. */
export const KeyHint = ({ name }: { name: string }) => <Beside aria-hidden="true">{name}</Beside>
