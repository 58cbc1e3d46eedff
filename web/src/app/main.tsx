import '@fontsource-variable/bricolage-grotesque/wght.css'
import '@fontsource-variable/public-sans/wght.css'
import '@/theme/app.css'

import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'

import createCache from '@emotion/cache'
import { CacheProvider } from '@emotion/react'

import { takePageSecret } from '@/api/session'

import { askAhead } from './ahead'
import { App } from './App'
import { queries } from './queryClient'

takePageSecret()
askAhead(queries, window.location)
const nonce = document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.content
const styles = createCache({ key: 'hm', nonce })

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <CacheProvider value={styles}>
      <App />
    </CacheProvider>
  </StrictMode>,
)
