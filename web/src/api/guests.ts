import { queryOptions } from '@tanstack/react-query'

import { answerOf, client } from './client'
import { useChange } from './queries'
import { pageHeaders } from './session'
import type { Schemas } from './types'

export type Proof = Schemas['ProofOut']

const LOOK_MS = 700

export const imagesQuery = () =>
  queryOptions({ queryKey: ['images'], queryFn: () => answerOf(client.GET('/api/images')) })

/** What guests of a system boot; nothing where it is not stated. */
export const imageOfQuery = (key: string) =>
  queryOptions({
    queryKey: ['library', 'systems', 'one', key, 'image'],
    queryFn: () => answerOf(client.GET('/api/systems/{key}/image', { params: { path: { key } } })),
  })

export const useStateImage = (key: string) =>
  useChange((body: Schemas['ImageIn']) =>
    answerOf(client.PUT('/api/systems/{key}/image', { params: { path: { key } }, body })),
  )

export const useMakeLadder = () =>
  useChange((body: Schemas['LadderIn']) => answerOf(client.POST('/api/machines/ladder', { body })))

export const useStartProof = () =>
  useChange((body: Schemas['PlaceIn']) => answerOf(client.POST('/api/proofs', { body })))

export const useEndProof = () =>
  useChange((key: string) => answerOf(client.DELETE('/api/proofs/{key}', { params: { path: { key } } })))

/** How far a proof is, asked for again until it is over. */
export const proofQuery = (key: string) =>
  queryOptions({
    queryKey: ['proof', key],
    queryFn: () => answerOf(client.GET('/api/proofs/{key}', { params: { path: { key } } })),
    refetchInterval: (query) => (query.state.data?.is_over ? false : LOOK_MS),
  })

export const useDeleteImage = () =>
  useChange((name: string) => answerOf(client.DELETE('/api/images/{name}', { params: { path: { name } } })))

export const useCopyImage = () =>
  useChange(({ path, progress }: { path: string; progress: string }) =>
    answerOf(client.POST('/api/images/copy', { params: { query: { progress } }, body: { path } })),
  )

/** Sends an image with its progress, which `fetch` does not tell. */
export function sendImage(file: File, told: (share: number) => void): Promise<Schemas['ImageHere']> {
  return new Promise((done, failed) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api/images/upload?name=${encodeURIComponent(file.name)}`)
    for (const [name, value] of Object.entries(pageHeaders())) request.setRequestHeader(name, value)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.responseType = 'json'
    request.upload.onprogress = (event) => told(event.total ? event.loaded / event.total : 0)
    request.onerror = () => failed(new Error('The server did not take it; is it still running?'))
    request.onload = () =>
      request.status < 300
        ? done(request.response as Schemas['ImageHere'])
        : failed(new Error((request.response as { detail?: string } | null)?.detail ?? 'It was not taken.'))
    request.send(file)
  })
}
