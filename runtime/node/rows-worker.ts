import type { ThreadMessage, ThreadOutcome } from '../shared-executor'
import { doMessage } from '../shared-executor'
import { codeHost } from './code-host'

/** Entry of a thread that takes part in passes, and packs and codes rows of files. */
export default (message: ThreadMessage): ThreadOutcome => doMessage(message, codeHost)
