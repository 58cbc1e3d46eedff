const MOST_SIDE = 1600
/** What the server keeps of one, written out. */
const MOST_CHARACTERS = 1_990_000
const MOST_PIXELS = 60_000_000
const QUALITY = 0.82

/** A picture drawn anew, no larger than a page and than what is kept: what a file says beside the picture stays behind. */
function drawn(source: CanvasImageSource, width: number, height: number, kind: string): string {
  if (!width || !height || width * height > MOST_PIXELS)
    throw new Error('this is no picture that can be kept')
  const canvas = document.createElement('canvas')
  for (let side = MOST_SIDE; ; side *= 0.75) {
    const scale = Math.min(1, side / Math.max(width, height))
    canvas.width = Math.round(width * scale)
    canvas.height = Math.round(height * scale)
    canvas.getContext('2d')!.drawImage(source, 0, 0, canvas.width, canvas.height)
    const image = canvas.toDataURL(kind, QUALITY)
    if (image.length <= MOST_CHARACTERS) return image
  }
}

/** A photograph from a file, without where, when and with what it was taken. */
export async function photograph(file: File): Promise<string> {
  const picture = await createImageBitmap(file).catch(() => {
    throw new Error(`${file.name} is no photograph that this browser can show: JPEG, PNG or WebP`)
  })
  try {
    return drawn(picture, picture.width, picture.height, 'image/jpeg')
  } finally {
    picture.close()
  }
}

/** The frame that a video shows. */
export const still = (video: HTMLVideoElement) =>
  drawn(video, video.videoWidth, video.videoHeight, 'image/png')
