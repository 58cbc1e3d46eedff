/** Calls `run` at once, then at most once a gap; what was asked meanwhile is done at its end. */
export function makeThrottle(gapMs: number, run: () => void) {
  let timer: ReturnType<typeof setTimeout> | null = null
  let isAsked = false
  const after = () => {
    timer = null
    if (isAsked) begin()
  }
  const begin = () => {
    isAsked = false
    timer = setTimeout(after, gapMs)
    run()
  }
  return {
    call: () => {
      isAsked = true
      if (timer === null) begin()
    },
    cancel: () => {
      if (timer !== null) clearTimeout(timer)
      timer = null
      isAsked = false
    },
  }
}
