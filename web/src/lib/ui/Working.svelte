<script lang="ts">
  /** Long work as it goes: how far it is, what it is doing, and a way to stop it. */
  import type { Task } from '../api/work.svelte';
  let { task, what, stopped }: { task: Task; what: string; stopped: string } = $props();
</script>

<div aria-live="polite" class="text-[13px]">
  {#if task.busy}
    <div class="mt-2 flex items-center gap-2">
      <progress class="w-full" max="1" value={task.now?.share ?? 0} aria-label={what}></progress>
      <button class="button min-h-[26px]! px-2! py-0!" onclick={() => task.stop()}>Stop</button>
    </div>
    <p class="fine truncate">{task.now?.working_on || 'waiting its turn'}</p>
  {:else if task.now?.status === 'stopped'}
    <p class="pt-1">{stopped}</p>
  {/if}
  {#if task.trouble}<p class="text-stop pt-1" role="alert">{task.trouble}</p>{/if}
</div>
