<script lang="ts">
  import type { Scene } from '../state/scene';
  let { scene }: { scene: Scene } = $props();
  const steps = $derived(scene.layup?.steps ?? []);
</script>

<div class="h-full overflow-y-auto px-8 py-6">
  <h2 class="fine narrow mb-3">In this order</h2>
  <ol class="max-w-[640px]">
    {#each steps as step, i (step.title)}
      <li class="border-hairline grid grid-cols-[34px_112px_1fr] gap-x-2 border-b py-[9px] leading-snug">
        <span class="narrow text-blue text-[19px] leading-5 font-[600]">{i + 1}</span>
        <span class="font-[650]">{step.title}</span>
        <span>{step.text}</span>
      </li>
    {/each}
  </ol>
</div>
