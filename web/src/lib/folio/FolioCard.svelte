<script lang="ts">
  /** A drawing or a font of the Folio, small. */
  import Outline from '../ui/Outline.svelte';
  import type { FolioItem } from './folio';
  let { item, onshow }: { item: FolioItem; onshow: () => void } = $props();
</script>

<li class="bg-sheet border-hairline rounded-[3px] border">
  <button class="block w-full p-3 text-left" onclick={onshow}>
    <Outline outline={[]} bounds={item.bounds} paints={item.paints} class="mb-2 h-[104px] w-full" />
    <span class="block truncate font-[650]">{item.name}</span>
    <span class="fine narrow block truncate">{item.says}</span>
    <span class="fine block truncate"
      >{item.kind} · {item.used} job{item.used === 1 ? '' : 's'}{item.tags.length
        ? ` · ${item.tags.join(', ')}`
        : ''}</span
    >
  </button>
</li>
