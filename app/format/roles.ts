/** Roles as one chooses among them. */
import { ROLE_SAYS, ROLES } from '~~/api/roles'

export const ROLE_CHOICES = ROLES.map(value => ({ value, label: `${value}: ${ROLE_SAYS[value]}` }))
