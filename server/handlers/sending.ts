/** How word of runs goes out: by mail, and to programs. */
import { coordinator } from '../../control/meeting-place'
import type { Handlers } from '../handler'
import { done } from './done'

type SendingOperation
  = | 'sending'
    | 'setMailServer'
    | 'removeMailServer'
    | 'tryMail'
    | 'setFigureGoal'
    | 'removeFigureGoal'
    | 'tryFigureGoal'
    | 'newHook'
    | 'removeHook'
    | 'tryHook'
    | 'sendAgain'
    | 'mailReport'

export const sending: Handlers<SendingOperation> = {
  sending: () => {
    const { mail, hooks, dispatches, figures } = coordinator()
    const { goal, standing } = figures
    const { server, hasPassword } = mail
    return {
      ...(server ? { mail: { ...server, hasPassword } } : {}),
      hooks: hooks.all(),
      ...(goal ? { figures: { ...goal, ...standing } } : {}),
      dispatches: dispatches.latest().map(({ hookId, content: _, ...of }) => ({ kind: hookId === undefined ? 'mail' : 'hook', ...of })),
    }
  },
  setMailServer: (_, { password, ...server }, by) => {
    by.about = `${server.host}:${server.port}`
    return done(coordinator().mail.setServer(server, password))
  },
  removeMailServer: () => done(coordinator().mail.dropServer()),
  tryMail: (_, { to }) => done(coordinator().dispatches.tryMail(to)),
  setFigureGoal: (_, { authorization, ...goal }, by) => {
    by.about = goal.address
    return done(coordinator().figures.setGoal(goal, authorization))
  },
  removeFigureGoal: () => done(coordinator().figures.dropGoal()),
  tryFigureGoal: async () => done(await coordinator().figures.try()),
  newHook: (_, hook, by) => {
    by.about = `${hook.name}, ${hook.address}`
    return coordinator().hooks.add(hook, Date.now())
  },
  removeHook: ({ hook }, _, by) => {
    by.about = coordinator().hooks.of(hook).name
    return done(coordinator().hooks.remove(hook))
  },
  tryHook: ({ hook }) => done(coordinator().dispatches.tryHook(hook)),
  sendAgain: ({ dispatch }) => done(coordinator().dispatches.again(dispatch)),
  mailReport: ({ run }, { to }) => done(coordinator().dispatches.mail(run, to)),
}
