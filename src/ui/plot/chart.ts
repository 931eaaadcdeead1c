import {
  BarController,
  BarElement,
  Chart,
  Filler,
  LineController,
  LineElement,
  LinearScale,
  LogarithmicScale,
  PointElement,
} from 'chart.js';

Chart.register(
  BarController,
  BarElement,
  Filler,
  LineController,
  LineElement,
  PointElement,
  LinearScale,
  LogarithmicScale,
);

export { Chart };
