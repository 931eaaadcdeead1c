const table = (polynomial: number): Uint32Array =>
  Uint32Array.from({ length: 256 }, (_, byte) => {
    let rest = byte;
    for (let k = 0; k < 8; k++) rest = rest & 1 ? (rest >>> 1) ^ polynomial : rest >>> 1;
    return rest >>> 0;
  });
/** Eight tables for eight bytes at a time (Kounavis and Berry, IEEE Trans. Computers 57 (2008) 1550: slicing by 8). */
function slices(first: Uint32Array): Uint32Array[] {
  const tables = [first];
  for (let k = 1; k < 8; k++) tables.push(tables[k - 1].map((rest) => (rest >>> 8) ^ first[rest & 0xff]));
  return tables;
}
const [T0, T1, T2, T3, T4, T5, T6, T7] = slices(table(0xedb88320));
const CRC16 = table(0x8408);

/** Check of 32 bits over bytes (ISO/IEC/IEEE 8802-3, 3.2.9: CRC-32). */
export function crc32(bytes: Uint8Array): number {
  let rest = 0xffffffff;
  let i = 0;
  for (const end = bytes.length - 7; i < end; i += 8)
    rest = T7[(rest ^ bytes[i]) & 0xff] ^ T6[((rest >>> 8) ^ bytes[i + 1]) & 0xff] ^ T5[((rest >>> 16) ^ bytes[i + 2]) & 0xff] ^ T4[(rest >>> 24) ^ bytes[i + 3]] ^ T3[bytes[i + 4]] ^ T2[bytes[i + 5]] ^ T1[bytes[i + 6]] ^ T0[bytes[i + 7]]; // prettier-ignore
  for (; i < bytes.length; i++) rest = (rest >>> 8) ^ T0[(rest ^ bytes[i]) & 0xff];
  return (rest ^ 0xffffffff) >>> 0;
}

/** Check of 16 bits over bytes (ISO/IEC 13239: the frame check sequence of 16 bits). */
export function crc16(bytes: Uint8Array): number {
  let rest = 0xffff;
  for (const byte of bytes) rest = (rest >>> 8) ^ CRC16[(rest ^ byte) & 0xff];
  return (rest ^ 0xffff) & 0xffff;
}
