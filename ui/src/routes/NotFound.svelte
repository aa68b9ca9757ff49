<script lang="ts"></script>

<div class="p-6">
  <h1>There is no such page</h1>
  <p class="mt-2">
    Go to the <a class="underline" href="#/">clips</a> or the <a class="underline" href="#/students">students</a>.
  </p>
</div>
