import { useCallback, useEffect, useRef, useState } from 'react'

import { handIn, type HandIn } from '@/api/byHand'
import { ProblemError } from '@/api/client'

import { keep, readKept } from '@/ui/kept'

export type Parcel = {
  id: string
  /** Results of one race that belong together; those without a study make one of this title. */
  results: HandIn[]
  session: string
  title: string
  refused: string | null
}

const NAME = 'outbox'
const STUDIES = 'studies'
const AGAIN_MS = 3000

/** What is sent again later: the server away, or full; anything else it has refused. */
const isPassing = (error: unknown) =>
  !(error instanceof ProblemError) || error.status === 0 || error.status >= 500 || error.status === 429

const withoutPictures = (parcel: Parcel): Parcel => ({
  ...parcel,
  results: parcel.results.map((one) => ({
    ...one,
    photographs: [],
    note: one.photographs?.length
      ? `${one.note ?? ''} (photographs were too large to be kept in the browser)`.trim()
      : (one.note ?? ''),
  })),
})

/** Results wait here, in this browser, until the server has taken them; each once. */
export function useOutbox() {
  const [parcels, setParcels] = useState<Parcel[]>(() => readKept<Parcel[]>(NAME, []))
  const [trouble, setTrouble] = useState<string | null>(null)
  const [sent, setSent] = useState<readonly { session: string; study: string }[]>(() =>
    readKept<{ session: string; study: string }[]>(STUDIES, []),
  )
  const [accepted, setAccepted] = useState<ReadonlySet<string>>(new Set())
  const isBusy = useRef(false)
  const latest = useRef(parcels)
  const change = useCallback((turn: (now: Parcel[]) => Parcel[]) => {
    latest.current = turn(latest.current)
    // pictures may be more than the browser keeps; the marks never are
    if (!keep(NAME, latest.current)) keep(NAME, latest.current.map(withoutPictures))
    setParcels(latest.current)
  }, [])
  const studyOf = useCallback(
    (session: string) => sent.find((one) => one.session === session)?.study ?? null,
    [sent],
  )

  const send = useCallback(async () => {
    if (isBusy.current) return
    isBusy.current = true
    try {
      for (;;) {
        const parcel = latest.current.find((one) => one.refused === null)
        if (!parcel) break
        const known = readKept<{ session: string; study: string }[]>(STUDIES, [])
        const study = known.find((one) => one.session === parcel.session)?.study ?? null
        try {
          const kept = await handIn({ study, title: parcel.title, results: parcel.results })
          const now = [...known.filter((one) => one.session !== parcel.session)]
          now.push({ session: parcel.session, study: kept.study })
          keep(STUDIES, now.slice(-50))
          setSent(now)
          setAccepted((before) => new Set([...before, ...parcel.results.map((one) => one.id)]))
          change((all) => all.filter((one) => one.id !== parcel.id))
          setTrouble(null)
        } catch (error) {
          const says = error instanceof Error ? error.message : String(error)
          if (isPassing(error)) {
            setTrouble(says)
            break
          }
          change((all) => all.map((one) => (one.id === parcel.id ? { ...one, refused: says } : one)))
        }
      }
    } finally {
      isBusy.current = false
    }
  }, [change])

  useEffect(() => {
    void send()
    const timer = setInterval(() => void send(), AGAIN_MS)
    const now = () => void send()
    window.addEventListener('online', now)
    return () => {
      clearInterval(timer)
      window.removeEventListener('online', now)
    }
  }, [send])

  const post = (parcel: Omit<Parcel, 'refused'>) => {
    change((all) => (all.some((one) => one.id === parcel.id) ? all : [...all, { ...parcel, refused: null }]))
    void send()
  }
  const drop = (id: string) => change((all) => all.filter((one) => one.id !== id))
  const retry = (id: string) => {
    change((all) => all.map((one) => (one.id === id ? { ...one, refused: null } : one)))
    void send()
  }
  return { parcels, trouble, accepted, studyOf, post, drop, retry }
}
