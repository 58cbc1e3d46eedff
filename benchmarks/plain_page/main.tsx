/** What React and MUI cost alone: the page that the empty page is held against. */
import Button from '@mui/material/Button'
import { createRoot } from 'react-dom/client'

createRoot(document.getElementById('root')!).render(<Button variant="contained">One button</Button>)
