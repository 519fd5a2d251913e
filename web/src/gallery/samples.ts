import type { Range } from '../stave/span'

/** Sentences in scripts that set themselves in different ways. */
export const SAMPLES: readonly { name: string; lang: string; words: string }[] = [
  { name: 'letters of Europe', lang: 'pl', words: 'Łódź Żółw, Ærø Østby, Δήλος, Çırağan, Šďávný Hřbet i Чайка Ъжь przypłynęły do Tessmaru.' },
  { name: 'Chinese', lang: 'zh', words: '琥珀码头号今天早上从特斯玛港出发，装载钢卷运往北方的陶器厂，船长在下午签署了文件。' },
  { name: 'Japanese', lang: 'ja', words: '琥珀丸は今朝、テスマー港を出港し、鋼材コイルを北の製陶所へ運んだ。Amber Quay も続いた。' },
  { name: 'Arabic', lang: 'ar', words: 'غادرت السفينة Amber Quay ميناء تسمار في الساعة 0410 مع (لفائف الصلب).' },
  { name: 'Hebrew', lang: 'he', words: 'האונייה Amber Quay 2 הפליגה מנמל טסמר בשעה 0410.' },
  { name: 'signs of two units', lang: 'en', words: 'The 🚢 Amber Quay 🚢 met 𝒜𝓂𝒷ℯ𝓇 at noon.' },
]

/** Tokens much as the server cuts them: runs of letters and figures; each sign of a script without spaces, and each other sign, alone. */
export function cut(words: string): Range[] {
  const tokens = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]|(?:(?![\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}])[\p{L}\p{M}\p{N}])+|\S/gu
  return [...words.matchAll(tokens)].map((found) => {
    const start = Array.from(words.slice(0, found.index)).length
    return { start, end: start + Array.from(found[0]).length }
  })
}
