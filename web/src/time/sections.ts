import type { SectionKind } from '../api/types'

/** The kinds of section, as they are called. */
export const SECTION_KINDS: readonly { kind: SectionKind; label: string }[] = [
  { kind: 'beat', label: 'Beat only' },
  { kind: 'bass', label: 'With bass' },
  { kind: 'full', label: 'Full' },
  { kind: 'break', label: 'Break' },
  { kind: 'rise', label: 'Rise' },
  { kind: 'beatless', label: 'Beatless' },
]

export const sectionLabel = (kind: SectionKind) => SECTION_KINDS.find((k) => k.kind === kind)!.label
