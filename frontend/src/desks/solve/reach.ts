// How far each channel goes. Pure.
export type Reach = { name: string; low: number; high: number; gaps: number };

export function reaches(data: Float32Array, channels: string[]): Reach[] {
  const count = channels.length;
  return channels.map((name, column) => {
    let low = Infinity;
    let high = -Infinity;
    let gaps = 0;
    for (let at = column; at < data.length; at += count) {
      const value = data[at]!;
      if (value !== value) gaps++;
      else {
        if (value < low) low = value;
        if (value > high) high = value;
      }
    }
    return low <= high ? { name, low, high, gaps } : { name, low: 0, high: 0, gaps };
  });
}
