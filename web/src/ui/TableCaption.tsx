import { styled } from '@mui/material/styles'

import { hidden } from './hidden'

/** What a table holds, for those who hear it; everybody else reads it beside the table. */
export const TableCaption = styled('caption')(hidden)
