export const FRAME = { width: 1920, height: 1080 }

const EDGE = 40

/** Where a picture stands in a frame, as large as there is room. */
export function placeIn(picture: { width: number; height: number }, frame = FRAME) {
  const scale = Math.min((frame.width - 2 * EDGE) / picture.width, (frame.height - 2 * EDGE) / picture.height)
  const [width, height] = [picture.width * scale, picture.height * scale]
  return { x: (frame.width - width) / 2, y: (frame.height - height) / 2, width, height }
}

/** A picture as a frame of a video, on the ground of the box that it was drawn in. */
export async function asVideoFrame(
  picture: { text: string; width: number; height: number },
  box: HTMLElement,
): Promise<Blob> {
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(picture.text)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = FRAME.width
  canvas.height = FRAME.height
  const ground = canvas.getContext('2d')!
  ground.fillStyle = getComputedStyle(box).backgroundColor
  ground.fillRect(0, 0, FRAME.width, FRAME.height)
  const at = placeIn(picture)
  ground.drawImage(image, at.x, at.y, at.width, at.height)
  return new Promise((done, fail) =>
    canvas.toBlob(
      (blob) => (blob ? done(blob) : fail(new Error('the frame could not be drawn'))),
      'image/png',
    ),
  )
}
