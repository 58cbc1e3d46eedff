import { Link } from 'react-router'

import { Empty } from '@/ui/States'

export const NotHere = () => (
  <main>
    <Empty title="There is no such page">
      <p>
        Go back to <Link to="/studies">all studies</Link>.
      </p>
    </Empty>
  </main>
)
