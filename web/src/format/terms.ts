/** The words of our own, and those of the trade that not everybody knows, each explained in a sentence or two. */
export const TERMS = {
  mile: { name: 'measured mile', says: 'The line on top of a study: filled as far as its runs are done.' },
  lane: {
    name: 'lane',
    says: 'One contender’s line in a picture: its readings as ticks, its median as an upright bar, its interval shaded.',
  },
  contender: {
    name: 'contender',
    says: 'A system on a machine that takes part in a study. Its colour and mark are the same in every picture.',
  },
  block: {
    name: 'block',
    says: 'One repeat of everything: each contender runs once, in an order drawn anew, so that a slow afternoon meets all alike.',
  },
  margin: {
    name: 'margin',
    says: 'The smallest difference that matters to you, stated before the first run. Smaller differences are never called one.',
  },
  baseline: {
    name: 'baseline',
    says: 'The contender that the others are compared with. Changing it changes no verdict, only what is compared in words.',
  },
  aside: {
    name: 'set aside',
    says: 'A reading that does not count, for a reason that is printed. It stays in sight and can be taken back.',
  },
  interval: {
    name: 'interval',
    says: 'Where the true value may lie: of 100 such intervals at least 95 hold it.',
  },
  draft: {
    name: 'draft',
    says: 'A study before it is started: everything in it can still be changed, and nothing runs.',
  },
  visits: {
    name: 'visits',
    says: 'One contender after the other, and the first once more at the end: fewer swaps by hand, but time and contender are mixed up.',
  },
  profile: {
    name: 'machine profile',
    says: 'Cores, memory, bus and firmware, from which a virtual machine is made. Several that differ in memory alone are a ladder.',
  },
  leastMemory: {
    name: 'least memory',
    says: 'The smallest memory in which a system still gets ready every time it is tried. Whether it can be used then is another question.',
  },
  standing: {
    name: 'standing',
    says: 'A system’s place among all that were ever measured, through studies that measured them side by side. A place such as 3 to 5 holds together with all other places.',
  },
  record: {
    name: 'record',
    says: 'A system that is decidedly ahead of every other one that was ever measured, such as the lightest yet.',
  },
  index: {
    name: 'index',
    says: 'Several measures as one figure: 100 is a reference whose figures are stored, more is better. Weights and every part are shown.',
  },
  incident: {
    name: 'incident',
    says: 'A crash, a hang, or an update that broke something, counted over hours in use.',
  },
  scorecard: {
    name: 'scorecard',
    says: 'What a tester gives a system by criteria of one’s own, with good and bad points. It is said beside measurements and never enters a verdict.',
  },
  report: {
    name: 'report',
    says: 'What is published of a study. Each version stays as it is; later readings make another one, which says what changed.',
  },
  package: {
    name: 'package',
    says: 'One file with studies and everything that they rest on, to be taken into another bench book or read in a browser without any server.',
  },
  claim: {
    name: 'claim',
    says: 'What the makers of a system say of it, with source and date, set beside what was measured.',
  },
  look: {
    name: 'early reading',
    says: 'A block after which verdicts are read before the end. Each one spends a part of the allowed error, so they are planned beforehand.',
  },
  seed: {
    name: 'seed',
    says: 'The number from which the order of the runs was drawn; the same seed draws the same order.',
  },
  procedure: {
    name: 'procedure',
    says: 'What is done in a run: boot, idle memory, footprint on disk, or the launch of an application.',
  },
  rig: {
    name: 'how it is run',
    says: 'What operates the machine: a virtual machine on this computer, a computer that works by itself, this computer, or a person.',
  },
  worker: {
    name: 'worker',
    says: 'The program that carries a study out, run after run. Several may share one study.',
  },
  fair: {
    name: 'fair start',
    says: 'Whether the contenders began alike: same medium, same power, same kernel settings. What differs is listed with what to do about it.',
  },
  raceCard: {
    name: 'race card',
    says: 'A study on one page, for print or as one file: every verdict, the main pictures, the conditions.',
  },
  probe: {
    name: 'probe',
    says: 'The small program that measures on a machine. It needs nothing but Python there.',
  },
  workspace: {
    name: 'workspace',
    says: 'Everything this Hare Mile holds: systems, machines, studies, readings and their evidence.',
  },
} as const

export type TermId = keyof typeof TERMS

/** What a verdict says, for whoever meets the word. */
export const VERDICTS: Readonly<Record<string, string>> = {
  ahead: 'Better than every other by more than the margin.',
  behind: 'Worse by more than the margin.',
  lower: 'Lower by more than the margin; neither end is better.',
  higher: 'Higher by more than the margin; neither end is better.',
  level: 'No difference that matters: whatever difference there is, it is smaller than the margin.',
  shared: 'Those in the first place differ by less than the margin; every other is known to be behind.',
  undecided: 'The runs so far do not decide it: the difference may or may not matter.',
  'not comparable': 'The contenders did not start alike, so no verdict is given.',
}

/** What a condition does to a comparison, in the words of the page. */
export const GRADES: Readonly<Record<string, { word: string; says: string }>> = {
  breaks: { word: 'unfair', says: 'With this difference the contenders cannot be compared.' },
  weakens: {
    word: 'less fair',
    says: 'The comparison stands, but this may explain a part of the difference.',
  },
  note: { word: 'note', says: 'It differs, and belongs to what is compared.' },
  same: { word: 'same', says: 'Stated for all, and alike.' },
}

/** How a reading was taken, by the name that it carries. */
export const METHODS: Readonly<Record<string, string>> = {
  systemd: 'Times that the service manager of the measured system kept itself.',
  'firmware-table': 'Times that the firmware left in its own table.',
  efi: 'Times that the boot loader left in the firmware’s variables.',
  'kernel-log': 'Times in the kernel’s log.',
  'session-start': 'When the person’s session began, by its process.',
  'host-marker': 'Timed from outside: the host saw the line or picture that the machine gave.',
  serial: 'Timed from outside: a text on the serial line.',
  port: 'Timed from outside: a network port answered.',
  screen: 'Timed from outside: the screen came to rest.',
  probe: 'Read by the probe on the machine itself.',
  statvfs: 'What the file system itself says of used space (the figure that df shows).',
  walk: 'Every file counted, one by one.',
  'package-db': 'Counted in the package manager’s own records.',
  hand: 'Timed or read by a person.',
  recording: 'Read off a recording of the screen.',
  typed: 'Typed in by a person.',
  quoted: 'Quoted from elsewhere; it is never part of a verdict.',
  wayland: 'Seen in what the application says to its compositor; a picture counts when it is handed over.',
  accessibility: 'When the application told of its window on the bus that screen readers listen to.',
  scope: 'Counted by the kernel for this application alone, in a control group of its own.',
  'counted-clock': 'A virtual machine’s clock that counts instructions: it compares work, not seconds.',
}
