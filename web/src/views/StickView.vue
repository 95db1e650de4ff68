<script setup lang="ts">
import { Button, Progress } from 'ant-design-vue'
import { computed } from 'vue'
import StickChanges from '../components/stick/StickChanges.vue'
import StickPlan from '../components/stick/StickPlan.vue'
import PickField from '../components/shared/PickField.vue'
import TextField from '../components/shared/TextField.vue'
import { useGathered } from '../composables/library/useLibrary'
import { useMixes } from '../composables/mix/useMixes'
import { useStick } from '../composables/export/useStick'

const { data: mixes } = useMixes()
const { data: gathered } = useGathered()
const stick = useStick()
const { path, lists: chosenLists, mixes: chosenMixes, plan, filling, isFilling, asked, came } = stick
const offered = computed(() => (stick.places.value ?? []).map((p) => ({ value: p, label: p })))
const isChosen = computed(() => chosenLists.value.length + chosenMixes.value.length > 0)
const last = computed(() => (asked.value && !isFilling.value ? filling.value : undefined))
const done = computed(() => last.value?.job?.state === 'done' && last.value)
</script>

<template>
  <section class="stick">
    <header>
      <h1>Stick for a player</h1>
      <p class="soft">
        Lists and mixes with their music, grids, cues and loops, in open formats, for a player that stands
        elsewhere. Changes made there come back here.
      </p>
    </header>
    <div class="columns">
      <section aria-label="What goes onto it">
        <h2>Where</h2>
        <div class="where">
          <PickField v-if="offered.length > 1" v-model:value="path" label="Places" :options="offered" />
          <TextField
            :value="path"
            label="The whole path of the stick"
            placeholder="/media/you/STICK"
            :longest="4000"
            @send="(p) => (path = p)"
          />
          <Button size="small" :disabled="!path" @click="stick.look()">Check again</Button>
        </div>
        <h2>What</h2>
        <div class="choices">
          <fieldset>
            <legend class="soft">Mixes, as lists</legend>
            <label v-for="m in mixes" :key="m.id">
              <input v-model="chosenMixes" type="checkbox" :value="m.id" />
              <span class="clip">{{ m.name }}</span> <span class="soft">{{ m.entries }}</span>
            </label>
            <p v-if="!mixes?.length" class="soft">There is no mix yet.</p>
          </fieldset>
          <fieldset>
            <legend class="soft">Lists</legend>
            <label v-for="l in gathered?.lists" :key="l.id">
              <input v-model="chosenLists" type="checkbox" :value="l.id" />
              <span class="clip">{{ l.name }}</span> <span class="soft">{{ l.track_ids.length }}</span>
            </label>
            <p v-if="!gathered?.lists.length" class="soft">There is no list yet: make one in Tracks.</p>
          </fieldset>
        </div>
        <template v-if="path">
          <h2>Space</h2>
          <p v-if="stick.planError.value" class="bad" role="alert">{{ stick.planError.value.message }}</p>
          <StickPlan v-else-if="plan" :plan="plan" />
          <div class="go">
            <Button
              v-if="!isFilling"
              type="primary"
              :disabled="!isChosen || !!plan?.problem || !!stick.planError.value"
              @click="stick.fill"
              >Fill stick</Button
            >
            <template v-else>
              <Progress :percent="Math.floor((filling?.job?.progress ?? 0) * 100)" aria-label="Filling" />
              <Button size="small" @click="stick.cancel">Cancel</Button>
            </template>
            <span v-if="done" class="fern"
              >{{ done.written }} written, {{ done.kept }} unchanged; all checked.</span
            >
          </div>
          <template v-if="done && done.failed.length">
            <p class="bad" role="alert">These tracks could not be put on it:</p>
            <ul>
              <li v-for="f in done.failed" :key="f.title">
                <strong>{{ f.title }}</strong> {{ f.reason }}
              </li>
            </ul>
          </template>
          <p v-if="last?.job?.error" class="bad" role="alert">{{ last.job.error }}</p>
        </template>
      </section>
      <section aria-label="Changes from the player">
        <h2>Changes from the player</h2>
        <p v-if="!path" class="soft">Put a stick in, and give its path.</p>
        <p v-else-if="stick.cameError.value" class="bad" role="alert">{{ stick.cameError.value.message }}</p>
        <StickChanges
          v-else-if="came"
          :came="came"
          @take="stick.take"
          @leave="stick.leave"
          @played="stick.listOfPlayed"
        />
      </section>
    </div>
  </section>
</template>

<style scoped>
ul {
  padding-left: 20px;
  list-style: disc;
}

.stick {
  padding: 22px 28px;
}

header p {
  margin: 4px 0 0;
}

h2 {
  margin: 18px 0 6px;
}

.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.15fr);
  gap: 44px;
}

.where,
.go {
  display: flex;
  align-items: center;
  gap: 8px;
}

.go {
  margin-top: 12px;
}

.choices {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}

fieldset {
  max-height: 190px;
  margin: 0;
  padding: 6px 12px 10px;
  overflow-y: auto;
  border: 1px solid var(--line);
  border-radius: var(--radius);
  background: var(--sheet);
}

legend {
  width: auto;
  margin: 0;
  border: 0;
  font-size: 13px;
  line-height: 1.3;
}

fieldset label {
  display: grid;
  grid-template-columns: 18px 1fr max-content;
  gap: 4px;
  align-items: baseline;
  padding: 2px 0;
}

.fern {
  color: var(--fern);
}

@media (max-width: 860px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
    gap: 10px;
  }
}
</style>
