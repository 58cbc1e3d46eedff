import { token } from '@/theme/tokens'

import { mile, type Post, type StudyPageName } from './layout/mile'
import { Picture } from './marks/Picture'

type Props = {
  width: number
  share: number | null
  here: StudyPageName
  names: readonly StudyPageName[]
  says: string
  isPublished?: boolean
  link: (name: StudyPageName, children: React.ReactNode) => React.ReactNode
}

/** The runs are counted between their post and that of the findings. */
const saysAt = (posts: readonly Post[]) => {
  const i = posts.findIndex((post) => post.name === 'Findings')
  return i > 0 ? (posts[i - 1]!.x + posts[i]!.x) / 2 : null
}

/** The measured mile along which a study runs. */
export function MilePicture({ width, share, here, names, says, isPublished, link }: Props) {
  const shape = mile(width, share, here, names, isPublished)
  const end = width - 4
  return (
    <Picture viewBox={`0 0 ${width} 58`} height={58}>
      <line x1={4} x2={end} y1={24} y2={24} stroke={token('rule')} strokeWidth={6} strokeLinecap="round" />
      <line
        x1={4}
        x2={shape.filledTo}
        y1={24}
        y2={24}
        stroke={token('rust')}
        strokeWidth={6}
        strokeLinecap="round"
      />
      {shape.cuts.map((x) => (
        <line key={x} x1={x} x2={x} y1={21} y2={27} stroke={token('paper')} />
      ))}
      <text x={saysAt(shape.posts) ?? width / 2} y={52} fontSize="12" textAnchor="middle" className="soft">
        {says}
      </text>
      {shape.posts.map((post) => (
        <g key={post.name}>
          {link(
            post.name,
            <>
              <rect x={post.x - 8} y={2} width={90} height={56} fill="transparent" />
              <rect
                x={post.x - 3}
                y={8}
                width={6}
                height={28}
                rx={2}
                fill={post.isReached ? token('ink') : token('rule')}
              />
              {post.isHere && <path d={`M${post.x + 3},8l16,6l-16,6z`} fill={token('rust')} />}
              <text x={post.x - 3} y={53} fontSize="13.5" fontWeight={post.isHere ? 700 : 500}>
                {post.name}
              </text>
            </>,
          )}
        </g>
      ))}
    </Picture>
  )
}
