import { expose } from 'comlink'
import { runTask } from '../task-outcome'

/** One helper thread of the browser: does parts of steps over shared memory. */
const helper = { run: runTask }
export type Helper = typeof helper

expose(helper)
