import { reactive } from 'vue'

/** Figures that were typed and are no numbers, by where they stand: kept as typed until somebody puts them right. */
export const unread = reactive(new Map<string, string>())
