import { Link } from 'react-router'

/** Leads to the heading of the methods that explains what stands beside it. */
export const MethodLink = ({ to, says = 'How is this calculated?' }: { to: string; says?: string }) => (
  <Link to={`/methods#${to}`} className="small">
    {says}
  </Link>
)
