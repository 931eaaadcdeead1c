/** What routes need of errors and input checks: they may not reach into the core themselves. */
export { FarrierError, badInput, type ErrorCode } from '$core/errors';
export { check } from './check';
export { isDiskFull } from '$store/reserve';
