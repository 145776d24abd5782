export const theme = {
  token: {
    colorPrimary: '#23459B',
    colorText: '#1D2433',
    colorTextSecondary: '#5D6373',
    colorBgContainer: '#FFFDF8',
    colorBgElevated: '#FFFDF8',
    colorBorder: '#DCD3C1',
    colorError: '#A93226',
    colorSuccess: '#1B7353',
    colorWarning: '#8A580C',
    borderRadius: 10,
    controlHeight: 36,
    fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif",
    fontSize: 15,
    motionDurationMid: '0.1s',
    motionDurationSlow: '0.12s',
  },
}
