import Button from '@mui/material/Button'

import { Empty } from '@/ui/States'

type Props = { onGuests: () => void; onImport: () => void; isStarting: boolean }

/** Nothing is there yet: what to do first. */
export const FirstStudy = ({ onGuests, onImport, isStarting }: Props) => (
  <div style={{ marginTop: 14 }}>
    <Empty title="No study yet. Run a first one in two minutes.">
      <p>
        Two tiny real systems lie ready on this machine: Osterfell Base, and Osterfell Server, which
        starts more. Boot each five times in shuffled order, and see whether the difference shows. It
        takes about two minutes.
      </p>
      <div className="actions">
        <Button variant="contained" onClick={onGuests} disabled={isStarting} autoFocus>
          Boot two real guests, 5 times each
        </Button>
        <Button variant="outlined" color="inherit" onClick={onImport}>
          Import readings that you have
        </Button>
      </div>
    </Empty>
  </div>
)
