/** Training the eye on a student's own page: whose it is, and its words in the page's language, stand in the page. */
import '@fontsource-variable/archivo/wght.css'
import '@fontsource/jetbrains-mono/400.css'
import '../app.css'
import { mount } from 'svelte'
import { speak } from '../lib/eye/say'
import Train from './Train.svelte'

interface Told {
  base: string
  student: string
  academy: string
  own: string[]
  messages: Record<string, string>
}

const target = document.getElementById('app')
const told = document.getElementById('told')
if (!target || !told?.textContent) throw new Error('this page was not made by the server')
const { messages, ...props } = JSON.parse(told.textContent) as Told
speak(messages)
mount(Train, { target, props })
