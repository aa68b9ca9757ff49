<script lang="ts">
  import Dialog from '../parts/Dialog.svelte'
  import { session } from './session.svelte'
  import SignInForm from './SignInForm.svelte'
</script>

<Dialog open title="Sign in again" width="max-w-md" question closed={() => (session.lapsed = true)}>
  <p class="mt-2 mb-4">
    Your session has ended. What you did on this screen is kept here, and saved as soon as you have signed in.
  </p>
  <SignInForm email={session.coach?.email ?? ''} />
</Dialog>
