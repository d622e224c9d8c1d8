import { expose } from 'comlink'
import { doMessage } from '../shared-executor'

/** One helper thread of the browser: takes part in passes over shared memory. */
const helper = { doMessage }
export type Helper = typeof helper

expose(helper)
