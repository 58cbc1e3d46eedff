/** Colours of the printed page, light and dark. The one place where they stand. */
export const light = {
  paper: '#F5F0E4',
  sheet: '#FFFDF7',
  ink: '#20303A',
  soft: '#55626A',
  rule: '#DCD2BE',
  chosen: '#F6EDDC',
  rust: '#B4472B',
  pine: '#2A6655',
  ochre: '#8A5E08',
  slate: '#3B658F',
  plum: '#774A83',
  umber: '#6A4A33',
  sea: '#1D7385',
  rose: '#A5446F',
  moss: '#5E6C1A',
} as const

export type TokenName = keyof typeof light

export const dark: Record<TokenName, string> = {
  paper: '#2A2319',
  sheet: '#352C20',
  ink: '#F0E7D6',
  soft: '#C6BAA5',
  rule: '#5E513E',
  chosen: '#463A29',
  rust: '#EE9273',
  pine: '#84C6AC',
  ochre: '#DDB25A',
  slate: '#92B9E2',
  plum: '#CDA0D6',
  umber: '#C9A383',
  sea: '#74C3D3',
  rose: '#EC97BB',
  moss: '#BFCB6C',
}

export const token = (name: TokenName) => `var(--hm-${name})`

export const variables = (tokens: Record<TokenName, string>) =>
  Object.fromEntries(Object.entries(tokens).map(([name, value]) => [`--hm-${name}`, value]))
