import { useState } from 'react'

import { fetchFile } from '@/api/files'
import { versionFile, type Report } from '@/api/report'
import { count, moment } from '@/format/numbers'
import { handOut } from '@/ui/keep'
import { Box, LinkButton, SoftSmall } from '@/ui/kit'
import { Failed } from '@/ui/States'

const FILES = [
  { file: 'page', says: 'one file (HTML)', ending: 'html' },
  { file: 'pdf', says: 'PDF', ending: 'pdf' },
  { file: 'readings.csv', says: 'readings (CSV)', ending: 'csv' },
] as const

type Props = { studyId: string; report: Report }

/** What was published, each as the files that can be handed on; and what is otherwise by now. */
export function VersionList({ studyId, report }: Props) {
  const [error, setError] = useState<Error | null>(null)
  const [pending, setPending] = useState('')
  const hand = (version: number, { file, ending }: (typeof FILES)[number]) => {
    setError(null)
    setPending(`${version} ${file}`)
    void fetchFile(versionFile(studyId, version, file))
      .then((body) => handOut(`report-version-${version}.${ending}`, body), setError)
      .finally(() => setPending(''))
  }
  if (!report.versions.length) return null
  return (
    <Box as="section" aria-label="Versions">
      {report.since.length > 0 && (
        <details>
          <summary>{count(report.since.length, 'change')} since the newest version</summary>
          <ul>
            {report.since.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </details>
      )}
      {report.versions.map((one) => (
        <div key={one.version}>
          <b>Version {one.version}</b> <SoftSmall>{moment(one.at)}</SoftSmall>
          <div>
            {FILES.map((file) =>
              file.file === 'pdf' && report.no_pdf ? (
                <SoftSmall key="pdf">no PDF: {report.no_pdf} </SoftSmall>
              ) : (
                <span key={file.file}>
                  <LinkButton
                    disabled={pending !== ''}
                    aria-label={`Version ${one.version} as ${file.says}`}
                    onClick={() => hand(one.version, file)}
                  >
                    {pending === `${one.version} ${file.file}` ? 'making it …' : file.says}
                  </LinkButton>{' '}
                </span>
              ),
            )}
          </div>
          <SoftSmall title={one.sha256}>content {one.sha256.slice(0, 12)}</SoftSmall>
          {one.changes.length > 0 && (
            <details>
              <summary>{count(one.changes.length, 'change')} since the one before</summary>
              <ul>
                {one.changes.map((text) => (
                  <li key={text}>{text}</li>
                ))}
              </ul>
            </details>
          )}
        </div>
      ))}
      {error && <Failed error={error} />}
    </Box>
  )
}
