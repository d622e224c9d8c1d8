import type { RowsTask } from '#core/engine/rows-task'
import { runTask } from '../task-outcome'
import type { TaskOutcome } from '../task-outcome'

/** Entry of a server worker thread. */
export default ({ task, flag }: { task: RowsTask; flag: Int32Array }): TaskOutcome => runTask(task, flag)
