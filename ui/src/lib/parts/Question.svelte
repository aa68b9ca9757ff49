<script lang="ts">
  import { asked } from './asked.svelte'
  import Dialog from './Dialog.svelte'
</script>

{#if asked.open}
  <Dialog open title={asked.open.title} width="max-w-md" question closed={() => asked.answer(false)}>
    <p class="mt-2">{asked.open.text}</p>
    <div class="mt-5 flex justify-end gap-3">
      <button class="button" onclick={() => asked.answer(false)}>Cancel</button>
      <button class="button main" onclick={() => asked.answer(true)}>{asked.open.action}</button>
    </div>
  </Dialog>
{/if}
