import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { useLocation } from 'react-router'

import { methodsQuery } from '@/api/queries'
import { Main, Prose } from '@/ui/kit'
import { Failed, Loading } from '@/ui/States'

/** How everything is calculated; opens at the heading that the address names. */
export function MethodsPage() {
  const page = useQuery(methodsQuery())
  const { hash } = useLocation()
  const html = page.data?.html
  useEffect(() => {
    document.title = 'How it is calculated · Hare Mile'
    if (html && hash) document.getElementById(hash.slice(1))?.scrollIntoView()
  }, [html, hash])
  return (
    <Main>
      {page.error && <Failed error={page.error} onRetry={() => void page.refetch()} />}
      {page.isPending && <Loading what="the methods" />}
      {html && <Prose as="article" dangerouslySetInnerHTML={{ __html: html }} />}
    </Main>
  )
}
