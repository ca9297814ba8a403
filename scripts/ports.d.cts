/** A port that nobody listens at now. */
export function freePort(): Promise<number>
/** Whether nobody listens at it now. */
export function isFree(port: number): Promise<boolean>
/** Whether something takes connections there. */
export function listens(port: number): Promise<boolean>
