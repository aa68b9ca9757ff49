/** What the pages of the eye say, in the language of who reads them: English, unless another language’s words were given. */
let known: Readonly<Record<string, string>> = {}

export function speak(messages: Readonly<Record<string, string>>): void {
  known = messages
}

/** A message with its values; its words are collected from here for translation (`lacertus/local/messages.py`). */
export function say(message: string, values: Readonly<Record<string, string | number>> = {}): string {
  return (known[message] || message).replace(/\{(\w+)\}/g, (whole, name: string) => String(values[name] ?? whole))
}

/** Marks a message that is said later, by its name. */
export const msg = (message: string): string => message
