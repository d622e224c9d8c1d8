import { GristError } from '#core/errors'
import { isDatabaseAway } from '../database/database.server'
import { Problem, problemOf } from './problem.server'

// Codes: PostgreSQL 15, appendix A; errno(3).
test.each([
  [{ code: '22021', message: 'invalid byte sequence' }, 400],
  [{ code: '22003', message: 'value out of range' }, 400],
  [{ code: '22P05', message: 'unsupported Unicode escape sequence' }, 400],
  [{ code: '23503', message: 'violates foreign key constraint' }, 409],
  [{ code: '53100', message: 'could not extend file' }, 507],
  [{ code: 'ENOSPC', message: 'no space left on device' }, 507],
  [{ code: '57P01', message: 'terminating connection' }, 503],
  [{ code: '57P03', message: 'the database system is starting up' }, 503],
  [{ code: 'ECONNREFUSED', message: 'connect' }, 503],
  [{ code: 'ENOENT', syscall: 'connect', message: 'connect' }, 503],
  [{ message: 'ROLLBACK - Client has encountered a connection error and is not queryable' }, 503],
  [{ name: 'KnexTimeoutError', message: 'Timeout acquiring a connection' }, 503],
  [new GristError('parameter-invalid', 'no'), 422],
  [new Problem(404, 'no'), 404],
])('%j is answered with %d', (error, status) => expect(problemOf(error)!.status).toBe(status))

test('an internal error is none of these, and no words of a system leave', () => {
  expect(problemOf(new TypeError('x is not a function'))).toBeNull()
  expect(problemOf({ code: 'ENOENT', syscall: 'open', message: 'no such file' })).toBeNull()
  expect(problemOf({ code: '42P01', message: 'relation does not exist' })).toBeNull()
  expect(problemOf({ code: 'ENOSPC', message: "ENOSPC: write '/var/secret'" })!.message).not.toContain('secret')
  expect(isDatabaseAway(new Error('nothing'))).toBe(false)
})
