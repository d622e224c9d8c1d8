import { doMessage } from '../shared-executor'

/** Entry of a thread that takes part in passes. */
export default doMessage
