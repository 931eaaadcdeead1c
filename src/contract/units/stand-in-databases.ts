/** Database of the rotor's pitch drive, as its maker would hand it over. */
export const PITCH_DATABASE = `VERSION "brinewheel pitch 3"
NS_ :
BS_:
BU_: PitchDrive Bench
BO_ 416 PitchState: 8 PitchDrive
 SG_ Angle : 0|16@1- (0.01,0) [-10|100] "°" Bench
 SG_ Speed : 16|16@1- (0.01,0) [-20|20] "°/s" Bench
 SG_ MotorCurrent : 32|12@1- (0.05,0) [-80|80] "A" Bench
 SG_ Enabled : 44|1@1+ (1,0) [0|1] "" Bench
 SG_ Alive : 48|8@1+ (1,0) [0|255] "" Bench
BO_ 417 PitchHealth: 8 PitchDrive
 SG_ Page M : 0|4@1+ (1,0) [0|1] "" Bench
 SG_ OilTemperature m0 : 8|8@1+ (1,-40) [-40|215] "°C" Bench
 SG_ OilPressure m0 : 16|16@1+ (0.01,0) [0|400] "bar" Bench
 SG_ Supply m1 : 8|16@1+ (0.001,0) [0|60] "V" Bench
 SG_ CabinetTemperature m1 : 24|8@1+ (1,-40) [-40|215] "°C" Bench
BO_ 672 PitchCommand: 4 Bench
 SG_ Target : 0|16@1- (0.01,0) [-5|95] "°" PitchDrive
 SG_ Enable : 16|1@1+ (1,0) [0|1] "" PitchDrive
BA_DEF_ SG_ "GenSigStartValue" INT 0 65535;
BA_ "GenSigStartValue" SG_ 672 Enable 1;
`;

/** Description of the seal's two nodes. */
export const SEAL_DESCRIPTION = `LIN_description_file;
LIN_protocol_version = "2.1";
LIN_speed = 19.2 kbps;
Nodes { Master: Bench, 5 ms, 0.1 ms; Slaves: Seal, Grease; }
Signals {
  SealTemperature: 10, 0, Seal, Bench;
  Leakage: 1, 0, Seal, Bench;
  GreasePressure: 12, 0, Grease, Bench;
  GreaseLevel: 8, 0, Grease, Bench;
}
Frames {
  SealState: 0x12, Seal, 2 { SealTemperature, 0; Leakage, 10; }
  GreaseState: 0x13, Grease, 3 { GreasePressure, 0; GreaseLevel, 12; }
}
Signal_encoding_types {
  Temperature { physical_value, 0, 1023, 0.1, -20, "°C"; }
  Pressure { physical_value, 0, 4095, 0.05, 0, "bar"; }
  Level { physical_value, 0, 200, 0.5, 0, "%"; }
}
Signal_representation { Temperature: SealTemperature; Pressure: GreasePressure; Level: GreaseLevel; }
`;
