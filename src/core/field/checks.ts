const table = (polynomial: number): Uint32Array =>
  Uint32Array.from({ length: 256 }, (_, byte) => {
    let rest = byte;
    for (let k = 0; k < 8; k++) rest = rest & 1 ? (rest >>> 1) ^ polynomial : rest >>> 1;
    return rest >>> 0;
  });
const CRC32 = table(0xedb88320);
const CRC16 = table(0x8408);

/** Check of 32 bits over bytes (ISO/IEC/IEEE 8802-3, 3.2.9: CRC-32). */
export function crc32(bytes: Uint8Array): number {
  let rest = 0xffffffff;
  for (const byte of bytes) rest = (rest >>> 8) ^ CRC32[(rest ^ byte) & 0xff];
  return (rest ^ 0xffffffff) >>> 0;
}

/** Check of 16 bits over bytes (ISO/IEC 13239: the frame check sequence of 16 bits). */
export function crc16(bytes: Uint8Array): number {
  let rest = 0xffff;
  for (const byte of bytes) rest = (rest >>> 8) ^ CRC16[(rest ^ byte) & 0xff];
  return (rest ^ 0xffff) & 0xffff;
}
