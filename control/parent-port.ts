/** Of a program that is the worker of another thread: what it is told comes here, and what it says goes here. */
import { parentPort } from 'node:worker_threads'
import { present } from '../core/values/present'

export const port = present(parentPort, 'the thread that started this one')
