import { Component, lazy, Suspense, type ComponentType, type ReactNode } from 'react'

import { Hidden } from './kit'
import { Failed, Loading } from './States'

/** Shows that a part of the page could not be fetched, and leaves the rest of the page as it is. */
class Guard extends Component<{ children: ReactNode }, { error: Error | null }> {
  override state: { error: Error | null } = { error: null }

  static getDerivedStateFromError = (error: Error) => ({ error })

  override render() {
    const { error } = this.state
    return error ? <Failed error={error} onRetry={() => window.location.reload()} /> : this.props.children
  }
}

const FIRST_PICTURE_MS = 2500
/** So long the first picture has the network and the processor for itself. */

const whenIdle = (work: () => void) =>
  void setTimeout(
    () => ('requestIdleCallback' in window ? window.requestIdleCallback(work, { timeout: 4000 }) : work()),
    FIRST_PICTURE_MS,
  )

/** Keeps the page's keys to itself, as the dialog will that is on its way: what is typed then is no command. */
const ComingDialog = () => <Hidden role="dialog" aria-label="opening" aria-busy="true" />

/**
 * A part that the first picture does not need: fetched when it is shown, or once the page is at rest; at once where it is
 * known that it will be shown.
 */
export function later<P extends object>(
  load: () => Promise<ComponentType<P>>,
  kind: 'part' | 'dialog' = 'part',
  isSoon = false,
) {
  const Shown = lazy(() => load().then((component) => ({ default: component })))
  const fetched = () => void load().catch(() => undefined) // what fails now is told when it is asked for
  if (isSoon) fetched()
  else whenIdle(fetched)
  return function Later(props: P) {
    return (
      <Guard>
        <Suspense fallback={kind === 'dialog' ? <ComingDialog /> : <Loading what="this part of the page" />}>
          <Shown {...props} />
        </Suspense>
      </Guard>
    )
  }
}
