<script lang="ts">
  import Dialog from '../../parts/Dialog.svelte'
  interface Props {
    open: boolean
  }
  let { open = $bindable() }: Props = $props()
  const GROUPS: [string, [string, string][]][] = [
    [
      'Look',
      [
        ['← →', 'one frame; held, it runs'],
        ['⇧← ⇧→', 'ten frames'],
        [', .', 'to the last and next event, sound or cut'],
        ['Home End', 'ends of the rep'],
        ['J', 'type a frame number'],
        ['space', 'play or stop'],
        ['S', 'speed: 1, ½, ¼, ⅛; real time for high-speed clips'],
        ['L', 'loop the rep'],
        ['M', 'sound on or off'],
        ['G', 'go to where the checkpoint is read'],
        ['⇧G', 'the curve of the checkpoint over the rep'],
      ],
    ],
    [
      'Picture and strand',
      [
        ['+ − 0', 'closer, wider, whole picture; also the wheel'],
        ['Ctrl ← → ↑ ↓', 'move the enlarged picture; also by dragging'],
        ['F W E', 'strand: finer, wider, as it was'],
        ['I', 'this clip: facts, capture rate, second view'],
        ['< >', 'step the second view alone'],
        ['T', 'tie the second view: both show this instant'],
        ['⇧T', 'the second view in the corner, as large as the first, hidden'],
        ['X', 'the bodies in space, and the mat from above: feet, base, lines of 45°'],
      ],
    ],
    [
      'Reps and events',
      [
        ['A ⇧A', 'accept the proposed cut, all of them'],
        ['D', 'drop the proposed cut'],
        ['[ ]', 'first and last frame of a rep'],
        ['R', 'cut a new rep'],
        ['⇧↓ ⇧↑', 'next and last rep'],
        ['⇧S', 'make this frame a start for drills'],
        ['1 … 9', 'mark that event here; again removes it'],
        ['Enter', 'do what the line below the picture says'],
        ['Q ⇧Q', 'mark the proposed event at its frame, all of them'],
        ['B', 'rep facts: purpose, outcome, start and end'],
        ['⇧1 … ⇧9', 'it did not happen'],
      ],
    ],
    [
      'Checkpoints',
      [
        ['↑ ↓', 'last and next checkpoint'],
        ['Y N', 'answer by eye, and on to the next question'],
        ['P', 'place its points'],
        ['H', 'mark the performer’s height; ⇧H the partner’s'],
        ['C', 'make the default correction of a missed one, or open it; its words, then Enter'],
        ['⇧C', 'draw a line by hand on this frame, on its correction'],
        ['⇧V', 'speak over it: a voice note on its correction'],
        ['Z', 'copy the open correction to the other reps that missed it'],
        ['Delete', 'delete the open correction'],
        ['O', 'overrule the verdict, with a reason'],
      ],
    ],
    [
      'Points',
      [
        ['Alt ← → ↑ ↓', 'nudge the chosen point, or steer to where one is placed; with ⇧ by a fifth'],
        ['Ctrl click', 'take a point while another is asked for'],
        ['K', 'track placed points through the rep'],
        ['V', 'copy from the nearest frame that has it'],
        ['U', 'hidden: the chosen point is a guess'],
        ['Delete', 'delete the point'],
        ['Esc', 'put the tool down'],
      ],
    ],
    [
      'All',
      [
        ['Ctrl Z', 'undo'],
        ['Ctrl ⇧ Z', 'redo'],
        ['?', 'this card'],
      ],
    ],
  ]
</script>

<Dialog bind:open title="Keys" width="max-w-3xl">
  <div class="mt-3 grid gap-x-8 gap-y-4 text-sm sm:grid-cols-2">
    {#each GROUPS as [title, keys] (title)}
      <section>
        <h3 class="soft font-semibold">{title}</h3>
        <dl>
          {#each keys as [key, what] (key)}<div class="flex gap-3 py-0.5">
              <dt class="w-28 flex-none"><kbd>{key}</kbd></dt>
              <dd>{what}</dd>
            </div>{/each}
        </dl>
      </section>
    {/each}
  </div>
</Dialog>
