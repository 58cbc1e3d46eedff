import { styled } from '@mui/material/styles'
import { Link } from 'react-router'

const SmallLink = styled(Link)({ fontSize: 13 })

/** Leads to the heading of the methods that explains what stands beside it. */
export const MethodLink = ({ to, says = 'How is this calculated?' }: { to: string; says?: string }) => (
  <SmallLink to={`/methods#${to}`}>{says}</SmallLink>
)
