/** Names of files made of names that people gave: no two alike, nothing that a file system minds. */
export class FileNames {
  private readonly taken = new Set<string>();
  of(name: string, ending = ''): string {
    const plain = name.replace(/[\\/:*?"<>|\p{Cc}]+/gu, '-').replace(/^[.\s]+|[.\s]+$/g, '').slice(0, 80) || 'without name'; // prettier-ignore
    for (let n = 1; ; n++) {
      const next = n === 1 ? plain : `${plain} ${n}`;
      if (this.taken.has(next.toLowerCase())) continue;
      this.taken.add(next.toLowerCase());
      return next + ending;
    }
  }
}
