import { canCalibrate, channelKind, roleOf, type Channel } from '$contract/channel';

/** How a channel's reading is proven, in a few words. */
export function calibrationText(channel: Channel): string {
  const { calibration, scale, kind } = channel;
  if (calibration) {
    const day = new Date(calibration.at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' });
    return calibration.method === 'by points'
      ? `${calibration.points.length} points, ${day}`
      : `${calibration.method.replace('by ', '')}, ${day}`;
  }
  const role = roleOf(channel);
  if (role === 'computed') return 'follows inputs';
  if (role === 'driven' || !canCalibrate(channelKind(kind))) return '';
  return scale ? 'scale' : 'sheet';
}
