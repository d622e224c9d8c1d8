import type { FindingWords } from '#core/checks/check'
import { runChecks } from '#core/checks/check'
import { checks } from '#core/checks/rules/rules.generated'
import { GristError } from '#core/errors'
import type { TaskFailure } from '../task-outcome'
import { failureOf } from '../task-outcome'
import type { DeliveredFiles } from './read-delivery'
import { subjectOfDelivery } from './read-delivery'

/** Entry of the thread that checks delivered files. */
export default async (delivery: DeliveredFiles): Promise<readonly FindingWords[] | TaskFailure> => {
  try {
    return runChecks(checks, subjectOfDelivery(delivery)).map(({ severity, channel, file, message, fix }) => ({
      ...{ severity, message, fix },
      ...(channel === undefined ? {} : { channel }),
      ...(file === undefined ? {} : { file }),
    }))
  } catch (error) {
    if (error instanceof GristError) return failureOf(error)
    throw error
  }
}
