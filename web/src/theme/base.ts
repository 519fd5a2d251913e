import { defaultBaseConfig, mergeConfigs } from '@chakra-ui/react'
import {
  animationStyles, breakpoints, buttonRecipe, cssVarsPrefix, cssVarsRoot, dialogSlotRecipe, globalCss, inputRecipe, keyframes,
  layerStyles, menuSlotRecipe, nativeSelectSlotRecipe, progressSlotRecipe, semanticTokens, tableSlotRecipe, textareaRecipe,
  textStyles, tokens,
} from '@chakra-ui/react/theme'

/**
 * The component library's own design, as far as components of it are used here: the rest would be as much again to load
 * before anything is drawn. A component that is used for the first time gets its recipe here.
 */
export const base = mergeConfigs(defaultBaseConfig, {
  preflight: true,
  cssVarsPrefix,
  cssVarsRoot,
  globalCss,
  theme: {
    breakpoints,
    keyframes,
    tokens,
    semanticTokens,
    textStyles,
    layerStyles,
    animationStyles,
    recipes: { button: buttonRecipe, input: inputRecipe, textarea: textareaRecipe },
    slotRecipes: {
      dialog: dialogSlotRecipe,
      menu: menuSlotRecipe,
      nativeSelect: nativeSelectSlotRecipe,
      progress: progressSlotRecipe,
      table: tableSlotRecipe,
    },
  },
})
