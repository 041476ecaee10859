// Numbers in a row that grows, in one typed array.
export class Column {
  constructor(Kind, from) {
    this.Kind = Kind;
    this.all = from ?? new Kind(1024);
    this.length = from ? from.length : 0;
  }
  push(value) {
    if (this.length === this.all.length) {
      const more = new this.Kind(this.all.length * 2 + 16);
      more.set(this.all);
      this.all = more;
    }
    this.all[this.length++] = value;
  }
  dropFirst(count) {
    this.all.copyWithin(0, count, this.length);
    this.length -= count;
  }
}

// Texts by number; 0 is the empty one.
export class Texts {
  constructor(all = [""]) {
    this.all = all;
    this.numbers = new Map(all.map((text, number) => [text, number]));
  }
  number(text) {
    let found = this.numbers.get(text);
    if (found === undefined) {
      found = this.all.length;
      this.all.push(text);
      this.numbers.set(text, found);
    }
    return found;
  }
}
