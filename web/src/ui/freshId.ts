const hex = (byte: number) => byte.toString(16).padStart(2, '0')

/** A random id (UUID, version 4); also over plain HTTP, where the browser makes none. */
export function freshId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = (bytes[6]! & 0x0f) | 0x40
  bytes[8] = (bytes[8]! & 0x3f) | 0x80
  const text = [...bytes].map(hex).join('')
  return [text.slice(0, 8), text.slice(8, 12), text.slice(12, 16), text.slice(16, 20), text.slice(20)].join(
    '-',
  )
}
