import { token } from '@/theme/tokens'

import { mile, type StudyPageName } from './layout/mile'
import { Picture } from './marks/Picture'

type Props = {
  width: number
  share: number | null
  here: StudyPageName
  names: readonly StudyPageName[]
  says: string
  link: (name: StudyPageName, children: React.ReactNode) => React.ReactNode
}

/** The measured mile along which a study runs. */
export function MilePicture({ width, share, here, names, says, link }: Props) {
  const shape = mile(width, share, here, names)
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
      <text
        x={shape.posts.length > 1 ? (shape.posts.at(-2)!.x + shape.posts.at(-1)!.x) / 2 : width / 2}
        y={52}
        fontSize="12"
        textAnchor="middle"
        className="soft"
      >
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
