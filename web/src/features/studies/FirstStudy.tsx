import Button from '@mui/material/Button'
import { styled } from '@mui/material/styles'
import { Link } from 'react-router'

import { Actions } from '@/ui/kit'
import { Empty } from '@/ui/States'

const Room = styled('div')({ marginTop: 14 })

type Props = { onGuests: () => void; onImport: () => void; onPlan: () => void; isStarting: boolean }

/** Nothing is there yet: what to do first. */
export const FirstStudy = ({ onGuests, onImport, onPlan, isStarting }: Props) => (
  <Room>
    <Empty title="No study yet. Run a first one in three minutes.">
      <p>
        Two tiny real systems lie ready on this machine: Osterfell Base, and Osterfell Server, which starts
        more. Boot each eight times in shuffled order, and see whether the difference shows. It takes two to
        four minutes.
      </p>
      <Actions>
        <Button variant="contained" onClick={onGuests} disabled={isStarting} autoFocus>
          Boot two real guests, 8 times each
        </Button>
        <Button variant="outlined" color="inherit" onClick={onImport}>
          Import readings that you have
        </Button>
        <Button variant="outlined" color="inherit" component={Link} to="/typing">
          Type or paste figures
        </Button>
        <Button variant="outlined" color="inherit" component={Link} to="/timing">
          Time by hand
        </Button>
        <Button variant="outlined" color="inherit" onClick={onPlan}>
          Plan a study of your own
        </Button>
      </Actions>
    </Empty>
  </Room>
)
