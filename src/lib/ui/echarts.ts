// The charts that are drawn here, and nothing else of the library. It is loaded once a chart is on the page: pages without
// one do not carry it.
import { BarChart, LineChart, SankeyChart, ScatterChart } from 'echarts/charts';
import { GridComponent, LegendComponent, MarkPointComponent, TooltipComponent } from 'echarts/components';
import { init, use } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

use([
	BarChart,
	LineChart,
	SankeyChart,
	ScatterChart,
	GridComponent,
	LegendComponent,
	TooltipComponent,
	MarkPointComponent,
	SVGRenderer
]);
export { init };
