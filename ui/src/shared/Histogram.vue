<script setup lang="ts">
import { BarChart } from 'echarts/charts'
import { GridComponent, TooltipComponent } from 'echarts/components'
import { init, use, type ECharts } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { useMutationObserver, useResizeObserver } from '@vueuse/core'
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue'

use([BarChart, GridComponent, TooltipComponent, SVGRenderer])

const props = defineProps<{
  labels: readonly string[]
  before: readonly number[]
  after: readonly number[]
  names: [string, string]
}>()
const box = useTemplateRef<HTMLElement>('box')
let chart: ECharts | undefined

const token = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim()

function draw() {
  if (!chart) return
  const text = { color: token('--ink-3'), fontFamily: token('--sans'), fontSize: 11 }
  const series = (name: string, data: readonly number[], colour: string) => ({
    type: 'bar' as const,
    name,
    data: [...data],
    itemStyle: { color: token(colour) },
    barGap: '0%',
    barCategoryGap: '30%',
    barMaxWidth: 12,
  })
  chart.setOption({
    animation: false,
    grid: { left: 4, right: 4, top: 8, bottom: 22, containLabel: false },
    tooltip: {
      trigger: 'axis',
      backgroundColor: token('--sheet'),
      borderColor: token('--line-2'),
      textStyle: { color: token('--ink'), fontFamily: token('--sans') },
    },
    xAxis: {
      type: 'category',
      data: [...props.labels],
      axisLabel: text,
      axisTick: { show: false },
      axisLine: { lineStyle: { color: token('--line-2') } },
    },
    yAxis: { type: 'value', show: false },
    series: [series(props.names[0], props.before, '--line-2'), series(props.names[1], props.after, '--copper')],
  })
}

onMounted(() => {
  chart = init(box.value!, undefined, { renderer: 'svg' })
  draw()
})
onBeforeUnmount(() => chart?.dispose())
useResizeObserver(box, () => chart?.resize())
watch(() => [props.labels, props.before, props.after], draw)
// The chart holds colours of its own; it is drawn anew when the look changes.
useMutationObserver(() => document.documentElement, draw, { attributes: true, attributeFilter: ['data-look'] })
</script>

<template><div ref="box" class="histogram" aria-hidden="true" /></template>

<style scoped>
.histogram {
  height: 120px;
  width: 100%;
}
</style>
