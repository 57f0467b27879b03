<script lang="ts">
  /** Two blanks side by side: is it the same as last time? */
  import { Dialog } from 'bits-ui';
  import type { Schemas } from '../api/client';
  import Glyph from '../ui/Glyph.svelte';

  let {
    compared,
    names,
    onclose,
  }: { compared: Schemas['ComparisonOut']; names: [string, string]; onclose: () => void } = $props();
</script>

<Dialog.Root open onOpenChange={(o) => !o && onclose()}>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 bg-black/30" />
    <Dialog.Content
      class="bg-sheet border-edge fixed top-1/2 left-1/2 w-[620px] -translate-x-1/2 -translate-y-1/2 rounded-[3px] border p-6"
    >
      <Dialog.Title class="text-[19px] font-[650]">Is it the same as last time?</Dialog.Title>
      <Dialog.Description class="mt-2 flex items-start gap-2 leading-snug">
        <span class="mt-[3px] flex"><Glyph level={compared.level} /></span>
        {compared.sentence}
      </Dialog.Description>
      <table class="mt-4 w-full text-[14px]">
        <thead class="text-quiet text-left text-[13px]">
          <tr>
            <td></td>
            <th class="max-w-[150px] truncate pr-3 font-[500]">{names[0]}</th>
            <th class="max-w-[150px] truncate pr-3 font-[500]">{names[1]}</th>
            <th class="font-[500]">apart</th>
            <th class="font-[500]">spread</th>
          </tr>
        </thead>
        <tbody class="narrow">
          {#each compared.differences as d (d.name)}
            <tr class="border-hairline border-t">
              <td class="py-1"
                ><span class="inline-flex items-center gap-2"><Glyph level={d.level} /> {d.name}</span></td
              >
              <td>{d.first}</td>
              <td>{d.second}</td>
              <td>{d.apart}</td>
              <td>± {d.spread}</td>
            </tr>
          {/each}
        </tbody>
      </table>
      <button class="button mt-4" onclick={onclose}>Close</button>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
