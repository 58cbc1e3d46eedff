import { createTheme } from '@mui/material/styles'

import { dark, light, type TokenName } from './tokens'

export const HEADING = "'Bricolage Grotesque Variable', 'Public Sans Variable', sans-serif"
const BODY = "'Public Sans Variable', sans-serif"

const palette = (tokens: Record<TokenName, string>, onRust: string) => ({
  primary: { main: tokens.rust, contrastText: onRust },
  secondary: { main: tokens.slate },
  error: { main: tokens.rust },
  success: { main: tokens.pine },
  warning: { main: tokens.ochre },
  background: { default: tokens.paper, paper: tokens.sheet },
  text: { primary: tokens.ink, secondary: tokens.soft },
  divider: tokens.rule,
})

export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-scheme' },
  colorSchemes: {
    light: { palette: palette(light, light.sheet) },
    dark: { palette: palette(dark, dark.paper) },
  },
  shape: { borderRadius: 3 },
  typography: {
    fontFamily: BODY,
    fontSize: 14,
    button: { fontFamily: HEADING, fontWeight: 650, textTransform: 'none' },
    h1: { fontFamily: HEADING, fontWeight: 700, fontSize: 27, lineHeight: 1.15 },
    h2: { fontFamily: HEADING, fontWeight: 650, fontSize: 16 },
  },
  components: {
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: { defaultProps: { disableElevation: true } },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
    MuiDialog: { styleOverrides: { paper: { border: '1px solid var(--hm-rule)' } } },
    MuiTextField: { defaultProps: { size: 'small', fullWidth: true } },
  },
})
