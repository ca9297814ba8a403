/**
 * Every code a problem can have, once: what causes it and what to do. What is said to an operator names the case; this
 * is what the codes mean.
 */

interface ErrorMeaning {
  /** HTTP statuses it comes with; none: the page says it itself. */
  statuses: readonly number[]
  cause: string
  remedy: string
}

export const ERRORS = {
  account: {
    statuses: [400],
    cause: 'A provider did not accept what an account was tried with.',
    remedy: 'Correct the address or the key, and try again.',
  },
  'account-in-use': {
    statuses: [409],
    cause: 'Machines of the account are out: without it nobody could give them back.',
    remedy: 'Release them first.',
  },
  'account-key': {
    statuses: [400],
    cause: 'An account has no key, or one that was sealed for another address.',
    remedy: 'Enter the key its provider gave.',
  },
  'account-name': {
    statuses: [400],
    cause: 'The name is Vornak’s own for another way to machines.',
    remedy: 'Choose another name.',
  },
  address: {
    statuses: [400, 404],
    cause: 'An address, or a number in it, cannot be read; or it is no address of a target.',
    remedy: 'Check the address.',
  },
  'approval-over': {
    statuses: [409],
    cause: 'The approval of the target has ended.',
    remedy: 'Ask its owner, and record the new approval.',
  },
  archive: {
    statuses: [400, 409],
    cause: 'A run cannot be archived as it is, or a file is no archive of a run that can be opened.',
    remedy: 'See what it says; nothing was changed.',
  },
  'base-url': {
    statuses: [400],
    cause: 'A description names no address that its requests could go to.',
    remedy: 'Give the address of the target.',
  },
  budget: {
    statuses: [409],
    cause: 'It would cost more than may still be spent.',
    remedy: 'Wait, ask for less, or raise the budget under Fleet, Costs.',
  },
  busy: {
    statuses: [409, 429],
    cause: 'As many tries are under way as may be, or the generator carries a load.',
    remedy: 'Wait for it, or choose another.',
  },
  'cannot-go': {
    statuses: [409],
    cause: 'A run cannot go with the machines that are there.',
    remedy: 'Wait for machines, or stop the run.',
  },
  capacity: {
    statuses: [400],
    cause: 'A capacity of 0 carries nobody.',
    remedy: 'Write the users that one machine carries.',
  },
  'carries-load': {
    statuses: [409],
    cause: 'The machine carries load of a run.',
    remedy: 'Stop the run, or wait for its end.',
  },
  command: {
    statuses: [409],
    cause: 'A command runs a program of its own: it is not tried step by step, and not calibrated.',
    remedy: 'Run a plan with few users instead.',
  },
  'content-type': {
    statuses: [415],
    cause: 'What changes something was not sent as JSON.',
    remedy: 'Send it as application/json.',
  },
  disk: {
    statuses: [507],
    cause: 'The disk of the data folder is nearly full: what a run finds could not be kept.',
    remedy: 'Make room on it, then start again.',
  },
  elsewhere: {
    statuses: [],
    cause: 'The service one signs in with did not answer, or does not vouch for the one who came.',
    remedy: 'Try again, or sign in by password.',
  },
  empty: {
    statuses: [400],
    cause: 'The file is empty.',
    remedy: 'Choose another.',
  },
  fault: {
    statuses: [500],
    cause: 'Vornak itself went wrong.',
    remedy: 'Try again; its log says more.',
  },
  file: {
    statuses: [404],
    cause: 'An uploaded file is not here any more.',
    remedy: 'Upload it again.',
  },
  form: {
    statuses: [400],
    cause: 'A value is not as the schema of the request wants it.',
    remedy: 'Correct the value that is named, and send again.',
  },
  host: {
    statuses: [421],
    cause: 'It was asked for under a name that is not Vornak’s own.',
    remedy: 'Call it by the address it was started with.',
  },
  'host-in-use': {
    statuses: [409],
    cause: 'A host has a machine of a run: without it nobody could end that.',
    remedy: 'Release the machine first.',
  },
  'host-twice': {
    statuses: [400],
    cause: 'Two hosts of a table have one name.',
    remedy: 'Give each host a name of its own.',
  },
  hosts: {
    statuses: [400],
    cause: 'A line of the table of hosts cannot be read.',
    remedy: 'Correct the table and paste it again; nothing was changed.',
  },
  import: {
    statuses: [400, 413, 500],
    cause: 'What is imported cannot be read, is too large, or takes too long.',
    remedy: 'See what it says; nothing was changed.',
  },
  'in-the-way': {
    statuses: [409],
    cause: 'Something is in the way of a start.',
    remedy: 'Fix what is in the way, then start.',
  },
  'in-use': {
    statuses: [409],
    cause: 'It is used by a plan or a journey.',
    remedy: 'Take it out there first.',
  },
  invitation: {
    statuses: [400],
    cause: 'An invitation is not as it must be.',
    remedy: 'Correct it; nothing was made.',
  },
  json: {
    statuses: [400],
    cause: 'The request is not JSON.',
    remedy: 'Correct it and send again.',
  },
  key: {
    statuses: [400],
    cause: 'A key cannot be opened: it is encrypted, public, or in a form that is not known.',
    remedy: 'Enter its passphrase, or paste the whole private key.',
  },
  'key-in-use': {
    statuses: [409],
    cause: 'A host signs in with the key.',
    remedy: 'Give that host another key first.',
  },
  mail: {
    statuses: [409],
    cause: 'No mail server is known.',
    remedy: 'A keeper gives one under People, Mail and hooks.',
  },
  'no-key': {
    statuses: [400],
    cause: 'A host names a key that is not there.',
    remedy: 'Add the key first.',
  },
  'no-stock': {
    statuses: [409],
    cause: 'The region is out of the machine type at the moment.',
    remedy: 'Choose another type or region, or wait.',
  },
  'no-such-address': {
    statuses: [404],
    cause: 'The API has no such address.',
    remedy: 'See docs/how-it-works.md for what there is.',
  },
  'nobody-here': {
    statuses: [409],
    cause: 'A location has no such machine with users.',
    remedy: 'Choose a location where users are.',
  },
  'last-keeper': {
    statuses: [409],
    cause: 'Without the last keeper nobody could let anybody in.',
    remedy: 'Make somebody else a keeper first.',
  },
  'not-approved': {
    statuses: [409],
    cause: 'The owner of the target has not agreed to anything being sent.',
    remedy: 'Record the approval on the target’s page.',
  },
  'not-sent': {
    statuses: [502],
    cause: 'A mail server or a program has not taken what was sent to it.',
    remedy: 'Correct the address or the server, and try again.',
  },
  'not-found': {
    statuses: [404],
    cause: 'There is no such thing.',
    remedy: 'Go back to the list and choose another.',
  },
  'not-judged': {
    statuses: [409],
    cause: 'The run has no answer: it is still under way, or it failed before it measured anything.',
    remedy: 'Wait until it has settled.',
  },
  'not-under-way': {
    statuses: [409],
    cause: 'The run is not under way.',
    remedy: 'Nothing needs to be done.',
  },
  'nothing-chosen': {
    statuses: [400],
    cause: 'Nothing is chosen to calibrate.',
    remedy: 'Choose a journey, a machine type and a network.',
  },
  'nothing-kept': {
    statuses: [400],
    cause: 'Nothing would be left in the journey.',
    remedy: 'Keep at least one request.',
  },
  forwarded: {
    statuses: [403],
    cause: 'It came through a proxy that the server was not told of, or nobody can sign in yet.',
    remedy: 'Make the first person, then start Vornak with VORNAK_PROXY, the address of the proxy.',
  },
  origin: {
    statuses: [403],
    cause: 'It was sent by a page of another site.',
    remedy: 'Open Vornak’s own page.',
  },
  over: {
    statuses: [409],
    cause: 'The calibration is over.',
    remedy: 'Reload.',
  },
  compare: {
    statuses: [400],
    cause: 'What is to be compared is not two to six runs, or not at a level that all of them held.',
    remedy: 'Choose runs, and a level they have in common.',
  },
  report: {
    statuses: [400, 500],
    cause: 'A report cannot be made as it is wished.',
    remedy: 'Correct what the sentence names, or show less of it.',
  },
  stream: {
    statuses: [409, 503],
    cause: 'A run that is told from elsewhere takes no more, or could not write down what was told.',
    remedy: 'Where it is over, open another; else send the same batch again.',
  },
  sent: {
    statuses: [400],
    cause: 'What a program sends of a target’s own figures cannot be read.',
    remedy: 'Correct the line that is named. Nothing of it was taken.',
  },
  source: {
    statuses: [400],
    cause: 'A source of a target’s own figures, or a series of it, cannot be read as it is written.',
    remedy: 'Correct what the sentence names.',
  },
  staff: {
    statuses: [400],
    cause: 'A staff asks for a statistic or a split that its measure does not have.',
    remedy: 'Ask for what there is of this measure; users are known by group, journey and location.',
  },
  'given-back': {
    statuses: [410],
    cause: 'What the run measured was given back, as the rules of what is kept say.',
    remedy: 'Ask its question again, or bring back a backup from before.',
  },
  fold: {
    statuses: [409],
    cause: 'Frames of a run cannot be folded: it is not over, is kept for good, or they are folded already.',
    remedy: 'Only runs that are over, and not kept for good, can be folded, once.',
  },
  folded: {
    statuses: [409],
    cause: 'The frames of the run were folded: its machines are told apart in whole stretches alone.',
    remedy: 'Ask for the window that is named, or not by machine.',
  },
  'host-key': {
    statuses: [409],
    cause: 'A host has not shown the key that is to be accepted, or another one since.',
    remedy: 'Try the host, and accept the key that it shows then.',
  },
  'address-range': {
    statuses: [400],
    cause: 'An approval names a range of addresses that is none.',
    remedy: 'Write one like 10.1.0.0/16 or fd00::/8, or one address.',
  },
  'own-host': {
    statuses: [400],
    cause: 'The host is Vornak itself.',
    remedy: 'Approve the hosts of the system under load.',
  },
  password: {
    statuses: [400, 401],
    cause: 'Name and password do not belong together, or a new password is too short or guessed too easily.',
    remedy: 'Correct it and try again.',
  },
  person: {
    statuses: [400, 403, 409],
    cause: 'The name is taken, the first person is no keeper, or they are not let in any more.',
    remedy: 'Choose another name, or ask a keeper.',
  },
  preset: {
    statuses: [409],
    cause: 'A preset network or client stays as it is.',
    remedy: 'Make a copy of it and change that.',
  },
  client: {
    statuses: [400],
    cause: 'A client’s name or headers cannot be.',
    remedy: 'Correct it and save again.',
  },
  profile: {
    statuses: [400],
    cause: 'A value of a network profile makes no sense.',
    remedy: 'Correct the value and save again.',
  },
  'provider-silent': {
    statuses: [502],
    cause: 'The provider does not answer.',
    remedy: 'Try again; what was asked for is asked again by itself.',
  },
  quota: {
    statuses: [409],
    cause: 'The region has no room for as many machines as are asked for.',
    remedy: 'Choose another region, or release machines there.',
  },
  'rail-machines': {
    statuses: [409],
    cause: 'More machines are wanted than the guard rail allows.',
    remedy: 'Ask for fewer, or raise the rail under Fleet, Costs.',
  },
  role: {
    statuses: [403],
    cause: 'Anyone who asks may not do this: it takes another role, or a person who has signed in.',
    remedy: 'Ask somebody who has the role.',
  },
  'saved-meanwhile': {
    statuses: [409],
    cause: 'Somebody else saved it meanwhile.',
    remedy: 'Your changes are still here: compare with the newer version, then save again.',
  },
  'secret-elsewhere': {
    statuses: [400],
    cause: 'A secret of the target was given for other hosts than it leads to now.',
    remedy: 'Give it again, or leave it out.',
  },
  sealed: {
    statuses: [500],
    cause: 'A secret cannot be opened with the key file that is there.',
    remedy: 'Bring the key file back (VORNAK_KEY_FILE), or enter the secret anew.',
  },
  'sign-in': {
    statuses: [401],
    cause: 'Anyone who asks is not known: not signed in, or the session or the token has ended.',
    remedy: 'Sign in, or send a token: “Authorization: Bearer …”.',
  },
  silent: {
    statuses: [],
    cause: 'The page had no answer: Vornak is away, or the connection is.',
    remedy: 'It is tried again; runs go on without the page.',
  },
  sink: {
    statuses: [500],
    cause: 'The built-in sink has ended.',
    remedy: 'Calibrate again.',
  },
  'sink-hosts': {
    statuses: [409],
    cause: 'The journey asks hosts by their own addresses: the sink stands for one.',
    remedy: 'Calibrate against the target, or use addresses without a host.',
  },
  'too-large': {
    statuses: [413],
    cause: 'The request or the file is larger than is taken.',
    remedy: 'Send less at once.',
  },
  'too-often': {
    statuses: [429],
    cause: 'There were too many wrong passwords for a name, or from an address.',
    remedy: 'Wait as long as is said.',
  },
  'try-failed': {
    statuses: [409],
    cause: 'The journey fails its try.',
    remedy: 'Open it, try it, and fix the step that is named.',
  },
  'unknown-region': {
    statuses: [409],
    cause: 'The provider does not answer, or has no such region.',
    remedy: 'Choose another region.',
  },
  'unknown-type': {
    statuses: [409],
    cause: 'The region has no such machine type.',
    remedy: 'Choose another type.',
  },
  upload: {
    statuses: [],
    cause: 'The upload broke off.',
    remedy: 'Upload it again.',
  },
  window: {
    statuses: [400],
    cause: 'It is not a window of whole seconds.',
    remedy: 'Give from and to in whole run seconds, from before to.',
  },
  zone: {
    statuses: [400],
    cause: 'It is no time zone.',
    remedy: 'Write one like Europe/Oslo or UTC.',
  },
} as const satisfies Record<string, ErrorMeaning>

export type ErrorCode = keyof typeof ERRORS

/** `docs/errors.md`. */
export function printErrors(): string {
  const rows = Object.entries<ErrorMeaning>(ERRORS).map(
    ([code, { statuses, cause, remedy }]) => `| \`${code}\` | ${statuses.join(', ') || '–'} | ${cause} | ${remedy} |`,
  )
  return [
    '# What can be wrong with a request',
    '',
    'Every failed request answers with a code, a sentence that names the case, and what to do. These are the codes.',
    '',
    '| code | HTTP status | cause | what to do |',
    '|---|---|---|---|',
    ...rows,
    '',
  ].join('\n')
}
