import { Link } from 'react-router'

import { Main } from '@/ui/kit'
import { Empty } from '@/ui/States'

export const NotHere = () => (
  <Main>
    <Empty title="There is no such page">
      <p>
        Go back to <Link to="/studies">all studies</Link>.
      </p>
    </Empty>
  </Main>
)
