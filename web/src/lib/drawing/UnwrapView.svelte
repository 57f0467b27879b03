<script lang="ts">
  import type { Scene } from '../api/client';
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
  {#if scene.template!.strain?.areas.length}<StrainLegend {scene} />{/if}
</div>
