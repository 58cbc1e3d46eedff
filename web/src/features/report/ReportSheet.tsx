import { styled } from '@mui/material/styles'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableContainer from '@mui/material/TableContainer'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'

import type { Report, ReportSection } from '@/api/report'
import { ReportFigure } from '@/charts/ReportFigure'
import { Foot, Sheet, Soft } from '@/ui/kit'
import { TableCaption } from '@/ui/TableCaption'
import { useWidth } from '@/ui/useWidth'

import { FrameButtons } from './FrameButtons'

const Page = styled(Sheet)({
  padding: '18px 20px',
  '& h2.report': { fontSize: 34, fontWeight: 700, letterSpacing: '-0.02em', lineHeight: 1.12 },
  '& .lead': { fontSize: 16, maxWidth: '70ch' },
})

const Part = styled('section')({
  borderTop: '1px solid var(--hm-rule)',
  marginTop: 18,
  paddingTop: 12,
  '& p': { margin: '4px 0', maxWidth: '86ch' },
  '& .headline': { fontFamily: "'Bricolage Grotesque Variable', sans-serif", fontSize: 20, fontWeight: 700 },
})

/** The report as it would be published now. */
export const ReportSheet = ({ report }: { report: Report }) => (
  <Page as="article" aria-label="The report as it stands">
    <h2 className="report">{report.content.headline}</h2>
    <div className="lead" dangerouslySetInnerHTML={{ __html: report.content.lead_html }} />
    {report.content.sections.map((section) => (
      <Shown key={`${section.part.kind} ${section.part.key}`} section={section} report={report} />
    ))}
    <Part as="footer">
      <p>{report.content.credits}</p>
      <Soft as="p">
        Every reading of what is shown stands at the end of the published file; figures lead there.
      </Soft>
    </Part>
  </Page>
)

function Shown({ section, report }: { section: ReportSection; report: Report }) {
  const [ref, width] = useWidth<HTMLDivElement>(820)
  const { figure } = section
  return (
    <Part aria-label={section.title}>
      <h2>{section.title}</h2>
      {section.headline && <p className="headline">{section.headline}</p>}
      {section.paragraphs.map((text) => text && <p key={text}>{text}</p>)}
      {figure && (
        <div ref={ref}>
          <ReportFigure figure={figure} lanes={report.content.lanes} width={Math.max(width, 280)} />
        </div>
      )}
      {section.rows.length > 0 && (
        <TableContainer>
          <Table size="small">
            <TableCaption>{section.title}</TableCaption>
            <TableHead>
              <TableRow>
                {section.columns.map((name) => (
                  <TableCell key={name}>{name}</TableCell>
                ))}
              </TableRow>
            </TableHead>
            <TableBody>
              {section.rows.map((row, i) => (
                <TableRow key={i}>
                  {row.map((cell, j) => (
                    <TableCell key={j}>{cell.text}</TableCell>
                  ))}
                </TableRow>
              ))}
            </TableBody>
          </Table>
        </TableContainer>
      )}
      {figure && (
        <Foot className="noprint">
          <FrameButtons section={section} lanes={report.content.lanes} />
        </Foot>
      )}
    </Part>
  )
}
