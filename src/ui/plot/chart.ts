import { Chart, LineController, LineElement, LinearScale, LogarithmicScale, PointElement } from 'chart.js';

Chart.register(LineController, LineElement, PointElement, LinearScale, LogarithmicScale);

export { Chart };
