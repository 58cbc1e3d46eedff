const ACTS: Record<string, string> = {
  'reading.set_aside': 'set a reading aside',
  'reading.taken_back': 'took a reading back in',
  'study.drafted': 'began to plan a study',
  'study.annotated': 'changed the note or the tags of a study',
  'study.planned': 'planned a study',
  'study.starting': 'started a study',
  'study.pausing': 'asked a study to pause',
  'study.paused': 'stopped a study',
  'study.extended': 'added repeats',
  'study.overridden': 'overrode a condition',
  'study.disturbed': 'noted a disturbance',
  'study.taken_in': 'brought files into a study',
  'study.joined': 'let a contender join',
  'study.renamed': 'renamed a study',
  'study.put_away': 'put a study away',
  'study.brought_back': 'brought a study back',
  'study.deleted': 'deleted a study for good',
  'file.put_away': 'put a file away',
  'file.brought_back': 'brought a file back',
  'reading.corrected': 'corrected a reading',
  'reading.uncorrected': 'took a correction back',
  'reading.retimed': 'had a reading’s delay taken off by a drill afterwards',
  'figure.quoted': 'quoted a figure from elsewhere',
  'bands.set': 'set the bands of a measure',
  'measure.kept': 'defined a measure of their own',
  'measure.put_away': 'took a measure of their own out',
  'measure.back': 'brought a measure of their own back',
  'incident.noted': 'noted an incident',
  'hours.noted': 'noted hours in use',
  'noted.put_away': 'took an incident or hours out of the count',
  'noted.back': 'brought an incident or hours back',
  'report.published': 'published a report',
  'package.taken_in': 'took a study in from another bench book',
  'commands.approved': 'approved the commands of an install from elsewhere',
  'commands.forgotten': 'forgot the commands of an install from elsewhere',
  'report.begun_again': 'began a report again from its findings',
  'scorecard.kept': 'kept a version of a scorecard',
  'works.noted': 'noted what works',
  'works.put_away': 'took a line out of a works list',
  'works.back': 'brought a line back into a works list',
  'weights.kept': 'kept a set of weights',
  'weights.put_away': 'put a set of weights away',
  'weights.back': 'brought a set of weights back',
  'figure.withdrawn': 'took a quoted figure out',
  'figure.brought_back': 'brought a quoted figure back',
  'photograph.kept': 'put a photograph beside a run',
  'photograph.withdrawn': 'took a photograph out',
  'photograph.brought_back': 'brought a photograph back',
  'evidence.trimmed': 'deleted evidence that nothing rests on',
  'run.set_aside': 'set a failed run aside, or let it count again',
  'study.done': 'finished a study',
  'study.running': 'ran a study',
  'run.planned': 'planned a run again',
  'run.skipped': 'skipped a run',
  'key made': 'made a key',
  'keys revoked': 'revoked keys',
  'session ended': 'signed a browser out',
  'device paired': 'made a code for a device',
  'machine key made': 'made a key for a machine',
  'machine keys revoked': 'revoked keys of a machine',
  'recipe changed': 'changed how an install is operated',
}

const SHOWN = [
  'title',
  'person',
  'role',
  'machine',
  'system',
  'rig',
  'key',
  'reason',
  'was',
  'is',
  'text',
  'agent',
  'runs',
  'readings',
  'captures',
  'blocks',
  'metric',
  'value',
  'source',
  'name',
]

/** What somebody did, in words. */
export const actWords = (what: string) => ACTS[what] ?? what.replaceAll('_', ' ').replace('.', ': ')

/** The facts of an act, as far as a person can use them. */
export const actFacts = (facts: Record<string, unknown>) =>
  SHOWN.filter((name) => facts[name] !== undefined && facts[name] !== null && facts[name] !== '')
    .map((name) => `${name === 'was' ? 'before' : name === 'is' ? 'now' : name} ${shown(facts[name])}`)
    .join(' · ')

function shown(fact: unknown): string {
  if (fact === null || typeof fact !== 'object') return String(fact)
  const pairs = Object.entries(fact as Record<string, unknown>)
  return pairs.length ? pairs.map(([name, value]) => `${name}=${String(value)}`).join(', ') : 'nothing'
}
