<script lang="ts">
  import SignInForm from '../lib/people/SignInForm.svelte'
</script>

<div class="mx-auto flex min-h-full max-w-sm flex-col justify-center px-6 py-10">
  <p class="text-4xl font-[750] tracking-tight">Lacertus</p>
  <p class="soft mt-1 mb-8">Technique review for coaches of throws, kicks, sweeps, submissions and falls.</p>
  <SignInForm />
  <p class="soft mt-10 text-sm">Lacertus measures pictures. It is no medical or safety device.</p>
</div>
