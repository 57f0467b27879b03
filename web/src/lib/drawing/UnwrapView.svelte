<script lang="ts">
  import type { Scene } from '../state/scene';
  import Drawing from './Drawing.svelte';
  import StrainLegend from './StrainLegend.svelte';
  import Template from './Template.svelte';
  import { View } from './view.svelte';

  let { scene }: { scene: Scene } = $props();
  const view = new View();
</script>

<div class="relative h-full w-full">
  <Drawing {view} bounds={scene.template!.bounds} title="Template, outside up" label="The template laid flat">
    <Template {scene} px={view.px} id="unwrap" strain />
  </Drawing>
  {#if scene.strain?.length}<StrainLegend {scene} />{/if}
</div>
