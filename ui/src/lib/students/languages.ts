/** Languages of sheets and of students' own pages, as lacertus/outputs/languages.py has them. */
export const LANGUAGES = [
  ['en', 'English'],
  ['de', 'Deutsch'],
  ['es', 'Español'],
] as const
