<script lang="ts">
  import type { JobState } from '../../state/job.svelte';
  import Field from '../../ui/Field.svelte';
  import Fold from '../../ui/Fold.svelte';
  import Readings from '../Readings.svelte';
  import { ROUND_READS } from './kinds';
  import Zones from './Zones.svelte';
  let { job }: { job: JobState } = $props();
</script>

<Readings {job} name="base" title="Rim" reads={ROUND_READS} checks={ROUND_READS} />
<Readings {job} name="rise" title="Rise in the middle" reads={[['rise', 'rise']]} />
<Field {job} path="blank.tape_thickness_mm" label="Tape thickness" />
<Fold title="Keep out" open>
  <Field {job} path="blank.margin_mm" label="Margin kept clear" note="along the surface, from the rim" />
  <Zones {job} round={false} />
</Fold>
