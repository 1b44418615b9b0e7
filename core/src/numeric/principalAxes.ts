type Axis = [number, number, number];

/** Eigenvectors of a symmetric 3 × 3 matrix, least eigenvalue first (Jacobi's rotations). */
export function principalAxes(matrix: ArrayLike<number>): [Axis, Axis, Axis] {
  const a = Float64Array.from(matrix);
  const v = Float64Array.from([1, 0, 0, 0, 1, 0, 0, 0, 1]);
  for (let sweep = 0; sweep < 24; sweep++) {
    let off = 0;
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ] as const) {
      const x = a[p * 3 + q]!;
      off += x * x;
      if (Math.abs(x) < 1e-300) continue;
      const theta = (a[q * 3 + q]! - a[p * 3 + p]!) / (2 * x);
      const t = Math.sign(theta || 1) / (Math.abs(theta) + Math.hypot(theta, 1));
      const c = 1 / Math.hypot(t, 1);
      const s = t * c;
      for (let k = 0; k < 3; k++) {
        const [kp, kq] = [a[k * 3 + p]!, a[k * 3 + q]!];
        a[k * 3 + p] = c * kp - s * kq;
        a[k * 3 + q] = s * kp + c * kq;
      }
      for (let k = 0; k < 3; k++) {
        const [pk, qk] = [a[p * 3 + k]!, a[q * 3 + k]!];
        a[p * 3 + k] = c * pk - s * qk;
        a[q * 3 + k] = s * pk + c * qk;
        const [vp, vq] = [v[k * 3 + p]!, v[k * 3 + q]!];
        v[k * 3 + p] = c * vp - s * vq;
        v[k * 3 + q] = s * vp + c * vq;
      }
    }
    if (off < 1e-30 * (a[0]! ** 2 + a[4]! ** 2 + a[8]! ** 2)) break;
  }
  const order = [0, 1, 2].sort((i, j) => a[i * 4]! - a[j * 4]!);
  return order.map((i): Axis => {
    const length = Math.hypot(v[i]!, v[3 + i]!, v[6 + i]!);
    return length > 1e-300 && Number.isFinite(length) ? [v[i]! / length, v[3 + i]! / length, v[6 + i]! / length] : [0, 0, 1];
  }) as [Axis, Axis, Axis];
}
