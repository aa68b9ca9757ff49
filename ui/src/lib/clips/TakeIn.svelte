<script lang="ts">
  import FolderUp from '@lucide/svelte/icons/folder-up'
  import Upload from '@lucide/svelte/icons/upload'
  import Combobox from '../parts/Combobox.svelte'
  import type { Schemas } from '../api/client'
  import { chosenFiles, droppedFiles, type Chosen, type Uploads } from './uploads.svelte'

  interface Props {
    uploads: Uploads
    students: readonly Schemas['StudentOut'][]
  }
  let { uploads, students }: Props = $props()
  const KINDS = 'video/*,.mkv,.avi,.mov,.mp4,.webm,.m4v'
  let student = $state('')
  let failure = $state('')
  let over = $state(false)

  function take(chosen: Chosen[]): void {
    failure = chosen.length ? '' : 'No file was chosen. Choose a video, or drop one here.'
    uploads.add(chosen, student)
  }
  function chose(event: Event & { currentTarget: HTMLInputElement }): void {
    take(chosenFiles(event.currentTarget.files))
    event.currentTarget.value = ''
  }
  async function dropped(event: DragEvent): Promise<void> {
    event.preventDefault()
    over = false
    take(await droppedFiles(event.dataTransfer))
  }
</script>

<!-- Dropped anywhere on the page, a file would else replace the page. -->
<svelte:window
  ondragover={(event) => (event.preventDefault(), (over = true))}
  ondragleave={(event) => (over = event.relatedTarget !== null)}
  ondrop={dropped}
/>

<section
  class="mt-3 flex flex-wrap items-center gap-x-4 gap-y-3 p-4"
  class:over
  style="border: 1.5px dashed var(--soft)"
  aria-label="Upload clips"
>
  <label class="button main"
    ><Upload size={16} aria-hidden="true" /> Choose videos<input
      class="sr-only"
      type="file"
      multiple
      accept={KINDS}
      onchange={chose}
      data-testid="files"
    /></label
  >
  <label class="button folder"
    ><FolderUp size={16} aria-hidden="true" /> Choose a folder<input
      class="sr-only"
      type="file"
      multiple
      webkitdirectory
      onchange={chose}
      data-testid="folder"
    /></label
  >
  <span class="flex items-center gap-2 text-sm"
    ><span aria-hidden="true">Student</span>
    <Combobox
      label="Student"
      items={[
        { value: '', label: 'Assign student later' },
        ...students.map((row) => ({ value: row.id, label: row.name })),
      ]}
      value={student}
      changed={(id) => (student = id)}
      placeholder="Assign student later"
      testid="student"
    />
  </span>
  <span class="soft min-w-60 flex-1 text-sm"
    >{over
      ? 'Drop to upload'
      : 'Or drop files and folders here. Interrupted uploads resume. Clips stay private to your academy.'}</span
  >
</section>
{#if failure}<p class="notice bad mt-3" role="alert">{failure}</p>{/if}

<style>
  .over {
    background: var(--band);
    border-color: var(--performer) !important;
  }
  .button:focus-within {
    outline: 2px solid var(--performer);
    outline-offset: 2px;
  }
  /* A phone has no folders to choose. */
  @media (pointer: coarse) {
    .folder {
      display: none;
    }
  }
</style>
