<script lang="ts">
  import type { Scene } from '../state/scene';
  let { scene }: { scene: Scene } = $props();
  const p = $derived(scene.price!);
  const money = $derived((v: string) => `${p.currency ? `${p.currency} ` : ''}${v}`);
  const TONES = ['var(--color-blue)', 'var(--color-edge)'];
</script>

<div class="h-full overflow-y-auto px-8 py-6">
  <h2 class="fine narrow mb-3">One piece, of {p.of}</h2>
  <table class="w-full max-w-[620px]">
    <tbody>
      {#each p.lines as line, i (line.name)}
        <tr class="border-hairline border-b">
          <th scope="row" class="w-[190px] py-[6px] text-left font-normal"
            >{line.name}{#if line.detail}<span class="fine block">{line.detail}</span>{/if}</th
          >
          <td class="px-4"
            ><span
              class="block h-3"
              style:width="{(p.shares[i] ?? 0) > 0 ? Math.max((p.shares[i] ?? 0) * 100, 0.4) : 0}%"
              style:background={TONES[i % 2]}
            ></span></td
          >
          <td class="w-[90px] text-right">{line.amount}</td>
        </tr>
      {/each}
      <tr class="border-ink border-b-2"
        ><th scope="row" class="py-[7px] text-left">Cost</th><td></td><td class="text-right font-[650]"
          >{money(p.cost)}</td
        ></tr
      >
      <tr class="border-hairline border-b"
        ><th scope="row" class="py-[7px] text-left font-normal">Profit</th><td class="px-4"
          ><span
            class="bg-brass block h-3"
            style:width="{Math.max(0, (Number(p.profit) / Math.max(Number(p.price), 0.01)) * 100)}%"
          ></span></td
        ><td class="text-right">{p.profit}</td></tr
      >
      <tr
        ><th scope="row" class="py-[9px] text-left text-[19px]">Price</th><td></td><td
          class="text-right text-[19px] font-[650] whitespace-nowrap">{money(p.price)}</td
        ></tr
      >
    </tbody>
  </table>
  <dl class="narrow mt-4 grid max-w-[620px] grid-cols-4 gap-4">
    {#each [['Margin, of the price', `${p.margin.toFixed(1)} %`], ['Markup, on the cost', `${p.markup.toFixed(1)} %`], ['Batch costs', money(p.batch_cost)], ['Batch sells at', money(p.batch_price)]] as [name, value] (name)}
      <div class="border-edge border-t pt-2">
        <dt class="fine">{name}</dt>
        <dd class="text-[17px] font-[650]">{value}</dd>
      </div>
    {/each}
  </dl>
  {#if p.each.length}
    <h2 class="fine narrow mt-6 mb-1">Each name by itself</h2>
    <table class="narrow w-full max-w-[620px]">
      <thead>
        <tr class="fine text-left"
          ><th class="font-normal">Name</th><th class="text-right font-normal">costs</th><th
            class="text-right font-normal">sells at</th
          ></tr
        >
      </thead>
      <tbody>
        {#each p.each as one, i (i)}
          <tr class="border-hairline border-t"
            ><td class="max-w-[360px] truncate py-[3px]"><bdi>{one.name}</bdi></td><td class="text-right">{one.cost}</td
            ><td class="text-right">{money(one.price)}</td></tr
          >
        {/each}
      </tbody>
    </table>
  {/if}
</div>
