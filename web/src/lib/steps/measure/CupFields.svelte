<script lang="ts">
  import type { JobState } from '../../state/job.svelte';
  import Readings from '../Readings.svelte';
  import { ROUND_READS, SIDE_READS } from './kinds';
  import Photograph from './Photograph.svelte';
  import RoundCommon from './RoundCommon.svelte';
  import TrialFit from './TrialFit.svelte';
  let { job }: { job: JobState } = $props();
</script>

<Readings {job} name="upper" title="Top" reads={ROUND_READS} checks={ROUND_READS} />
<Readings {job} name="lower" title="Bottom" reads={ROUND_READS} checks={ROUND_READS} />
<Readings {job} name="side" title="Between the two" reads={SIDE_READS} checks={SIDE_READS} />
<RoundCommon {job} />
<TrialFit {job} />
<Photograph {job} />
