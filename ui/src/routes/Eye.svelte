<script lang="ts">
  import { coachDoor } from '../lib/eye/door'
  import EyePage from '../lib/eye/EyePage.svelte'
  import { session } from '../lib/people/session.svelte'

  const door = $derived(session.mayReview ? coachDoor : { ...coachDoor, useOwn: undefined })
</script>

<div class="mx-auto max-w-5xl px-4 py-5">
  <EyePage {door}>
    {#snippet intro()}
      <p class="soft mt-1 max-w-2xl">
        Short sets on film whose truth is known: mark an event, say an angle, find what was missed. Afterwards you see
        what is so, and how far off you were. Most films are of the studio’s figures; some are of finished reviews,
        where the student agreed to it.
      </p>
      <p class="soft mt-1 max-w-2xl text-sm">
        Watching is not practising: throws, falls, kicks and holds can injure. Try them only under a teacher’s eye and
        by the rules of your hall.
      </p>
    {/snippet}
  </EyePage>
</div>
