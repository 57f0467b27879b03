<script lang="ts">
  import type { Scene } from '../api/client';
  import Drawing from './Drawing.svelte';
  import Template from './Template.svelte';
  import { View } from './view.svelte';

  let { scene }: { scene: Scene } = $props();
  const view = new View();
</script>

<Drawing {view} bounds={scene.template!.bounds} title="Template, outside up" label="The template laid flat">
  <Template {scene} px={view.px} id="unwrap" />
</Drawing>
