/** What a new technique begins as: the steps, and the text, say what is still to be filled in. */
export const START = `lacertus_technique: 1
id: our-technique
names: {main: ""}
family: kick
phases: [start, finish]
events: {}
checkpoints: []
cautions: [supervised]
`
