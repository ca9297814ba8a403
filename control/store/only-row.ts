import { present } from '../../core/values/present'

/** The row of a query that counts or sums: there is always one. */
export const onlyRow = <T>(row: T | undefined): T => present(row, 'the one row of a sum')
