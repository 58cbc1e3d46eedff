import NativeSelect from '@mui/material/NativeSelect'
import { styled } from '@mui/material/styles'

/** One of several, in a list that the browser opens. */
export const Select = styled(NativeSelect)({
  maxWidth: 'min(100%,290px)',
  '& .MuiNativeSelect-select.MuiNativeSelect-select': {
    fontWeight: 650,
    padding: '2px 24px 2px 7px',
    border: '1px solid var(--hm-rule)',
    borderRadius: 3,
    backgroundColor: 'var(--hm-sheet)',
    fontSize: 14,
    height: 'auto',
    lineHeight: 1.4,
  },
})
