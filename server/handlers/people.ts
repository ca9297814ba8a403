/** Who may come in, and what each keeps for coming: sessions, tokens. */
import { ownPath } from '../../api/own-path'
import { coordinator } from '../../control/meeting-place'
import type { Handlers, Led } from '../handler'
import { problemOf } from '../problems'
import { done } from './done'

type PeopleOperation =
  | 'me'
  | 'signIn'
  | 'goElsewhere'
  | 'comeBack'
  | 'signOut'
  | 'setPassword'
  | 'sessions'
  | 'endSession'
  | 'tokens'
  | 'makeToken'
  | 'endToken'
  | 'people'
  | 'addPerson'
  | 'changePerson'
  | 'resetPassword'
  | 'trail'

/** A browser that was on its way is told on the page it began at. @throws what is no problem of theirs */
function backToSignIn(error: unknown): Led {
  const { status, problem } = problemOf(error)
  if (status === 500) throw error
  return { to: `/sign-in?failed=${encodeURIComponent(`${problem.sentence} ${problem.remedy}`)}` }
}

const peopleOf = () => coordinator().people

export const people: Handlers<PeopleOperation> = {
  me: (_, __, { caller }) => peopleOf().me(caller),
  signIn: async (_, { name, password }, by) => {
    by.about = name
    const { secret, caller } = await peopleOf().signIn(name, password, by.visit)
    by.comesWith(caller, secret)
    return peopleOf().me(caller)
  },
  goElsewhere: async ({ to }, _, by) => {
    try {
      const { url, state } = await peopleOf().theOther().begin(ownPath(to))
      by.goesWith(state)
      return { to: url }
    }
    catch (error) {
      return backToSignIn(error)
    }
  },
  comeBack: async (_, __, by) => {
    const from = { act: 'signIn', outcome: 'done' }
    try {
      const { secret, caller, to } = await peopleOf().comeBack(by.query, by.cameBackWith(), by.visit)
      by.comesWith(caller, secret)
      coordinator().trail.write(caller, by.visit.from, { ...from, about: caller.name })
      return { to }
    }
    catch (error) {
      const led = backToSignIn(error)
      coordinator().trail.write(undefined, by.visit.from, { ...from, about: 'elsewhere', outcome: 'elsewhere' })
      return led
    }
  },
  signOut: (_, __, by) => {
    const { id, sessionId } = peopleOf().personOf(by.caller)
    peopleOf().sessions.end(id, sessionId)
    by.leaves()
    return { done: true }
  },
  setPassword: (_, { now, next }, { caller, visit }) =>
    done(peopleOf().setPassword(caller, now, next, visit.from)),

  sessions: (_, __, { caller }) => {
    const { id, sessionId } = peopleOf().personOf(caller)
    return peopleOf()
      .sessions.of(id)
      .map(({ personId: _person, ...s }) => ({ ...s, isThis: s.id === sessionId }))
  },
  endSession: ({ session }, _, { caller }) =>
    done(peopleOf().sessions.end(peopleOf().personOf(caller).id, session)),
  tokens: (_, __, { caller }) =>
    peopleOf()
      .tokens.of(peopleOf().personOf(caller).id)
      .map(({ personId: _person, ...token }) => token),
  makeToken: (_, wish, by) => {
    by.about = wish.name
    return { token: peopleOf().tokens.make(peopleOf().personOf(by.caller), wish) }
  },
  endToken: ({ token }, _, by) => {
    const { id } = peopleOf().personOf(by.caller)
    by.about = peopleOf().tokens.of(id).find(t => t.id === token)?.name
    return done(peopleOf().tokens.end(id, token))
  },

  people: () => peopleOf().list(),
  addPerson: async (_, wish, by) => {
    by.about = wish.name
    const isFirst = peopleOf().isOpen
    const person = await peopleOf().add(wish)
    if (isFirst) {
      // The one who makes the first person is that person.
      const { secret, caller } = peopleOf().begin(person, by.visit)
      by.comesWith(caller, secret)
    }
    return { done: true }
  },
  changePerson: ({ person }, wish) => done(peopleOf().change(person, wish)),
  resetPassword: ({ person }, { password }) => done(peopleOf().resetPassword(person, password)),
  trail: ({ before }) => coordinator().trail.view(before),
}
