/** What an archive knows of a run that another installation led: its machines were none of ours. */
import type { RunView } from '../../api/views'

export interface Opened extends Pick<RunView, 'machines' | 'generators' | 'rollCall' | 'cost'> {
  /** Its number where it was led. */
  number: number
}
