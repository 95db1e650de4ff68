import { theme } from 'ant-design-vue'
import type { ThemeConfig } from 'ant-design-vue/es/config-provider/context'

/** The component library's tokens, taken from ours. */
export function antTheme(dark: boolean): ThemeConfig {
  return {
    algorithm: dark ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: dark ? '#7cc297' : '#2c6846',
      colorInfo: dark ? '#7cc297' : '#2c6846',
      colorBgBase: dark ? '#23271f' : '#fbf9f2',
      colorBgContainer: dark ? '#23271f' : '#fdfcf8',
      colorBgElevated: dark ? '#2b3027' : '#fdfcf8',
      colorTextBase: dark ? '#ece8da' : '#23281f',
      colorBorder: dark ? '#4a5044' : '#cfc7b3',
      colorBorderSecondary: dark ? '#3a3f34' : '#ddd6c5',
      colorTextLightSolid: dark ? '#16201a' : '#ffffff',
      fontFamily: "'Source Sans 3 Variable', 'Source Sans 3', sans-serif",
      fontSize: 14,
      borderRadius: 5,
      controlHeight: 30,
      wireframe: false,
    },
  }
}
