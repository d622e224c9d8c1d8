// Adds up the tests of Jest and Playwright. Prints "N passed, N failed" last; exits 1 on any failure or a failed step.
import { existsSync, readFileSync } from 'node:fs'

const [, , jestFile, playwrightFile, failedStep] = process.argv
const read = (file) => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : null)
const jest = read(jestFile)
const browser = read(playwrightFile)
let passed = (jest?.numPassedTests ?? 0) + (browser?.stats.expected ?? 0) + (browser?.stats.flaky ?? 0)
let failed = (jest?.numFailedTests ?? 1) + (jest?.numRuntimeErrorTestSuites ?? 0) + (browser?.stats.unexpected ?? 1)
if (failedStep === 'yes' && failed === 0) failed = 1
console.log(`${passed} passed, ${failed} failed`)
process.exit(failed ? 1 : 0)
