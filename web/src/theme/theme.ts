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
    MuiDialog: {
      styleOverrides: {
        // what a form holds scrolls between its title and its buttons, which stay in sight
        paper: { border: '1px solid var(--hm-rule)', '& > form': { display: 'contents' } },
      },
    },
    MuiTextField: { defaultProps: { size: 'small', fullWidth: true } },
    MuiTableCell: {
      styleOverrides: {
        root: {
          padding: '6px 12px',
          fontSize: 13,
          lineHeight: 1.45,
          verticalAlign: 'top',
          color: 'inherit',
          borderBottom: '1px solid var(--hm-rule)',
        },
        head: { color: 'var(--hm-soft)', fontWeight: 500 },
        stickyHeader: { backgroundColor: 'var(--hm-sheet)' },
        alignRight: { fontVariantNumeric: 'tabular-nums' },
      },
    },
    MuiTableRow: {
      styleOverrides: {
        root: {
          '&.Mui-selected, &.Mui-selected:hover, &.MuiTableRow-hover:hover': {
            backgroundColor: 'var(--hm-chosen)',
          },
        },
      },
    },
    MuiTabs: {
      styleOverrides: { root: { minHeight: 0 }, list: { flexWrap: 'wrap' }, indicator: { display: 'none' } },
    },
    MuiLinearProgress: {
      styleOverrides: { root: { height: 6, borderRadius: 3, backgroundColor: 'var(--hm-rule)' } },
    },
    MuiTab: {
      styleOverrides: {
        root: {
          minHeight: 0,
          minWidth: 0,
          padding: '2px 8px 5px',
          marginRight: 4,
          font: 'inherit',
          fontSize: 13,
          letterSpacing: 0,
          color: 'var(--hm-soft)',
          borderBottom: '2px solid transparent',
          '&.Mui-selected': { color: 'var(--hm-ink)', fontWeight: 650, borderBottomColor: 'var(--hm-rust)' },
        },
      },
    },
    MuiInputBase: { styleOverrides: { root: { font: 'inherit' } } },
    // the gap in the frame is as wide as the label that stands in it: three quarters of its size
    MuiOutlinedInput: { styleOverrides: { notchedOutline: { '& legend': { fontSize: 12 } } } },
    MuiNativeSelect: { defaultProps: { disableUnderline: true } },
    MuiFormControlLabel: { styleOverrides: { label: { fontSize: 13, color: 'var(--hm-soft)' } } },
    MuiTooltip: {
      defaultProps: { arrow: true },
      styleOverrides: {
        tooltip: {
          fontSize: 13,
          lineHeight: 1.4,
          maxWidth: 340,
          padding: '8px 12px',
          backgroundColor: 'var(--hm-ink)',
          color: 'var(--hm-sheet)',
        },
        arrow: { color: 'var(--hm-ink)' },
      },
    },
    MuiSnackbarContent: {
      styleOverrides: { root: { backgroundColor: 'var(--hm-ink)', color: 'var(--hm-sheet)' } },
    },
  },
})
