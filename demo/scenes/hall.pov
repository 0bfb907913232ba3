// The entrance hall: the door stands open to a bright forecourt; a guest walks through (Pose 0 to 4).
#include "common.inc"
#ifndef (Pose) #declare Pose = 0; #end
camera { perspective location <-0.35, 1.5, -4.4> look_at <0.12, 1.28, 1> right x*1.5 up y angle 68 }
#declare SunDir = vnormalize(<0.55, 0.72, 0.62>);
light_source { SunDir*2000 rgb <1, 0.93, 0.80>*58 area_light x*16, y*16, 4, 4 adaptive 1 jitter circular orient }
Valley(15, -1)
// tiles
#local I = 0; #local R = seed(77);
union { #while (I < 17) #local J = 0; #while (J < 34)
  #local K = 0.9+rand(R)*0.2;
  box { <-2.03+I*0.24, -0.05, -4.8+J*0.24>, <-2.03+I*0.24+0.237, rand(R)*0.0012, -4.8+J*0.24+0.237>
    texture { #if (mod(I+J, 2)) pigment { granite scale 0.5 color_map { [0 rgb <0.05,0.055,0.055>*K] [1 rgb <0.10,0.105,0.10>*K] } } #else pigment { granite scale 0.6 turbulence 0.2 color_map { [0 rgb <0.56,0.53,0.46>*K] [1 rgb <0.70,0.67,0.60>*K] } } #end
      finish { diffuse 0.75 specular 0.25 roughness 0.02 reflection { 0.01, 0.16 fresnel on } conserve_energy } } interior { ior 1.5 } }
  #local J = J+1; #end #local I = I+1; #end }
box { <-3, -0.3, -6>, <3, -0.045, 4> pigment { rgb 0.2 } }
// walls: panelled below, plaster above; door in z = 3
#macro PanelPaint(K) texture { pigment { bozo scale 0.4 turbulence 0.5 color_map { [0 rgb <0.30,0.34,0.30>*K] [1 rgb <0.33,0.37,0.325>*K] } } normal { granite 0.02 scale 0.1 } finish { diffuse 0.82 specular 0.06 roughness 0.06 } } #end
#macro Wall(X, S) box { <X, -0.1, -5>, <X+S*0.2, 3.2, 3.2> Plaster(<0.70, 0.66, 0.54>) }
  box { <X, 0, -5>, <X-S*0.018, 1.0, 3> PanelPaint(0.92) }
  box { <X, 1.0, -5>, <X-S*0.045, 1.05, 3> PanelPaint(1) }
  box { <X, 0, -5>, <X-S*0.035, 0.16, 3> PanelPaint(1) }
  #local I = 0; #while (I < 10) box { <X, 0.16, -4.8+I*0.8>, <X-S*0.03, 1.0, -4.7+I*0.8> PanelPaint(1) } #local I = I+1; #end
  cylinder { <X-S*0.02, 2.97, -5>, <X-S*0.02, 2.97, 3>, 0.06 Plaster(<0.80, 0.79, 0.75>) }
#end
Wall(-2, -1) Wall(2, 1)
box { <-2.2, -0.1, -5.2>, <2.2, 3.2, -5> Plaster(<0.70, 0.66, 0.54>) }
box { <-2.2, 3.0, -5.2>, <2.2, 3.2, 3.2> Plaster(<0.80, 0.79, 0.75>) }
difference { box { <-2.2, -0.1, 3>, <2.2, 3.2, 3.25> } box { <-0.62, -0.2, 2.9>, <0.62, 2.2, 3.4> } box { <-0.62, 2.32, 2.9>, <0.62, 2.75, 3.4> } box { <-1.5, 1.0, 2.9>, <-0.95, 2.2, 3.4> } box { <0.95, 1.0, 2.9>, <1.5, 2.2, 3.4> } Plaster(<0.70, 0.66, 0.54>) }
union { box { <-0.70, 0, 2.96>, <-0.62, 2.83, 3.1> } box { <0.62, 0, 2.96>, <0.70, 2.83, 3.1> } box { <-0.7, 2.2, 2.96>, <0.7, 2.32, 3.1> } box { <-0.7, 2.75, 2.96>, <0.7, 2.83, 3.1> }
  #local I = 1; #while (I < 6) box { <-0.62+I*0.2067-0.009, 2.32, 3.03>, <-0.62+I*0.2067+0.009, 2.75, 3.06> } #local I = I+1; #end texture { WhitePaint } }
union { SashWindow(0.55, 1.2, 2, 4, 0.02) translate <-1.225, 1.0, 3.1> } union { SashWindow(0.55, 1.2, 2, 4, 0.02) translate <1.225, 1.0, 3.1> }
// open door leaf
union { box { <0, 0.01, 0>, <1.2, 2.18, 0.05> } box { <0.14, 0.2, -0.012>, <1.06, 0.95, 0> } box { <0.14, 1.1, -0.012>, <1.06, 2.02, 0> } pigment { rgb <0.045, 0.10, 0.085> } finish { diffuse 0.7 specular 0.3 roughness 0.02 reflection 0.02 } rotate y*-100 translate <-0.62, 0, 3.0> scale 1 }
// forecourt outside: gravel, wall, gateposts, shrubs
plane { y, -0.12 texture { pigment { granite scale 0.4 color_map { [0 rgb <0.34,0.30,0.24>] [1 rgb <0.62,0.57,0.47>] } } normal { granite 0.6 scale 0.15 } } clipped_by { box { <-30, -1, 3.2>, <30, 1, 26> } } }
box { <-0.9, -0.12, 3.2>, <0.9, -0.02, 3.7> Plaster(<0.5,0.48,0.43>) }
union { box { <-12, -0.2, 13>, <-1.6, 0.9, 13.4> } box { <1.6, -0.2, 13>, <12, 0.9, 13.4> } box { <-2.0, -0.2, 12.9>, <-1.5, 1.6, 13.5> } box { <1.5, -0.2, 12.9>, <2.0, 1.6, 13.5> } texture { pigment { granite scale 0.9 color_map { [0 rgb <0.20,0.19,0.17>] [1 rgb <0.46,0.43,0.37>] } } normal { granite 0.8 scale 0.4 } } }
#local I = 0; #while (I < 46) sphere { <-5.5+rand(R)*11, 0.05+rand(R)*0.55, 10.5+rand(R)*2.3>, 0.25+rand(R)*0.35 #if (abs(mod(I,11)-5) < 0) scale 1 #end texture { pigment { bozo scale 0.05 turbulence 1 color_map { [0 rgb <0.02,0.05,0.012>] [1 rgb <0.12,0.20,0.05>] } } normal { granite 1.3 scale 0.2 } } } #local I = I+1; #end
// runner, console table, mirror, coats, umbrella stand, ceiling lamp
box { <-0.55, 0, -4.5>, <0.55, 0.014, 2.5> Cloth(<0.10, 0.115, 0.14>, 1.5) } box { <-0.47, 0, -4.45>, <0.47, 0.0155, 2.44> Cloth(<0.30, 0.075, 0.05>, 1.5) }
union { box { <1.55, 0.78, -0.7>, <1.96, 0.82, 0.7> } box { <1.58, 0.68, -0.66>, <1.95, 0.78, 0.66> } cylinder { <1.62,0,-0.6>, <1.62,0.7,-0.6>, 0.022 } cylinder { <1.62,0,0.6>, <1.62,0.7,0.6>, 0.022 } cylinder { <1.9,0,-0.6>, <1.9,0.7,-0.6>, 0.022 } cylinder { <1.9,0,0.6>, <1.9,0.7,0.6>, 0.022 } Wood(Walnut, WalnutLight, 1) }
union { box { <1.95, 1.25, -0.45>, <1.99, 2.05, 0.45> Wood(Walnut, WalnutLight, 0.6) } box { <1.945, 1.31, -0.39>, <1.96, 1.99, 0.39> pigment { rgb 0.02 } finish { diffuse 0.1 reflection 0.86 } } }
union { TableLamp(0.36, 0.14, 2.0, <1, 0.60, 0.28>) translate <1.75, 0.82, 0.48> }
lathe { cubic_spline 8, <0,-0.01>, <0.05,0>, <0.085,0.06>, <0.09,0.14>, <0.045,0.24>, <0.035,0.28>, <0.05,0.30>, <0.05,0.31> pigment { rgb <0.12,0.22,0.30> } finish { diffuse 0.7 specular 0.5 roughness 0.01 reflection 0.05 } translate <1.75, 0.82, -0.3> }
#local I = 0; #while (I < 24) sphere_sweep { cubic_spline 5, <0,0.2,0>, 0.003 <0,0.28,0>, 0.003 <0.04,0.42,0>, 0.0035 <0.08+rand(R)*0.06,0.48+rand(R)*0.1,0>, 0.009 <0.15,0.5,0>, 0.002 pigment { rgb <0.16+rand(R)*0.3,0.18,0.05> } rotate y*I*57 translate <1.75, 0.82, -0.3> } #local I = I+1; #end
box { <-1.98, 1.62, -0.9>, <-1.94, 1.74, 0.7> Wood(Walnut, WalnutLight, 1) }
#local I = 0; #while (I < 4) union { sphere { <-1.88, 1.66, -0.7+I*0.45>, 0.022 texture { Brass } } cylinder { <-1.95, 1.66, -0.7+I*0.45>, <-1.88, 1.66, -0.7+I*0.45>, 0.01 texture { Brass } } } #local I = I+1; #end
#macro Hanging(C, Len, W) intersection {
  union { sphere_sweep { cubic_spline 6, <0,0.1,0>, 0.02 <0,0,0>, 0.045 <0,-0.10,0>, 0.115 <0,-0.35,0>, 0.135 <0,-Len,0>, 0.16 <0,-Len-0.3,0>, 0.17 } 
    #local Q = 0; #while (Q < 7) sphere_sweep { cubic_spline 4, <0.115*cos(Q*0.9),-0.05,0.115*sin(Q*0.9)>, 0.02 <0.115*cos(Q*0.9),-0.25,0.115*sin(Q*0.9)>, 0.03 <0.150*cos(Q*0.9+0.1),-Len,0.150*sin(Q*0.9+0.1)>, 0.04 <0.16*cos(Q*0.9+0.1),-Len-0.3,0.16*sin(Q*0.9+0.1)>, 0.04 } #local Q = Q+1; #end }
  box { <-1, -Len, -1>, <1, 0.2, 1> } Cloth(C, 1) scale <0.42, 1, W> } #end
object { Hanging(<0.13,0.11,0.07>, 0.82, 1.15) translate <-1.87, 1.64, -0.25> } object { Hanging(<0.05,0.06,0.09>, 0.95, 1.0) translate <-1.88, 1.64, 0.2> }
union { cylinder { <0, 2.55, -0.8>, <0, 3, -0.8>, 0.008 texture { Iron } } sphere { <0, 2.42, -0.8>, 0.15 pigment { rgb 1 } finish { diffuse 0.2 emission <1,0.80,0.55>*2.2 } } }
light_source { <0, 2.2, -0.8> rgb <1, 0.76, 0.48>*0.35 fade_distance 1 fade_power 2 area_light x*0.25, z*0.25, 3, 3 adaptive 1 jitter }
// the guest: walks from the door towards the camera's left, one step between exposures
#if (Pose >= 0)
#declare PX = array[5] { 0.30, 0.12, -0.10, -0.42, -0.80 };
#declare PZ = array[5] { 1.9, 1.15, 0.4, -0.35, -1.05 };
#declare SW = array[5] { 24, -20, 26, -23, 22 };
#declare S = SW[Pose];
#macro Limb(A, B, C, RA, RB, RC) sphere_sweep { cubic_spline 5, A*2-B, RA A, RA B, RB C, RC C*2-B, RC } #end
union {
  union { // trousers
    Limb(<-0.10,0.92,0>, <-0.10,0.92,0>+vrotate(<0,-0.44,0.02>, x*S), <-0.10,0.92,0>+vrotate(<0,-0.44,0.02>, x*S)+vrotate(<0,-0.40,0>, x*(S*0.6-14)), 0.105, 0.078, 0.058)
    Limb(<0.10,0.92,0>, <0.10,0.92,0>+vrotate(<0,-0.44,0.02>, x*-S), <0.10,0.92,0>+vrotate(<0,-0.44,0.02>, x*-S)+vrotate(<0,-0.40,0>, x*(-S*0.6-14)), 0.105, 0.078, 0.058)
    Cloth(<0.055, 0.06, 0.085>, 0.8) }
  union { // coat
    intersection { sphere_sweep { cubic_spline 7, <0,0.3,0>, 0.24 <0,0.56,0>, 0.215 <0,0.85,0>, 0.185 <0,1.06,0>, 0.160 <0,1.28,0>, 0.185 <0,1.43,0>, 0.10 <0,1.5,0>, 0.07 } box { <-1, 0.57, -1>, <1, 2, 1> } scale <1.12, 1, 0.74> }
    torus { 0.162, 0.014 scale <1.12, 1.6, 0.76> translate <0,1.05,0> }
    Limb(<-0.21,1.38,0>, <-0.25,1.38,0>+vrotate(<0,-0.28,0>, x*-S*0.8), <-0.25,1.38,0>+vrotate(<0,-0.28,0>, x*-S*0.8)+vrotate(<0,-0.25,0>, x*(-S*0.8+18)), 0.07, 0.058, 0.045)
    Limb(<0.21,1.38,0>, <0.25,1.38,0>+vrotate(<0,-0.28,0>, x*S*0.8), <0.25,1.38,0>+vrotate(<0,-0.28,0>, x*S*0.8)+vrotate(<0,-0.25,0>, x*(S*0.8+18)), 0.07, 0.058, 0.045)
    Cloth(<0.33, 0.12, 0.06>, 0.8) }
  union { sphere { <0,0,0>, 0.115 scale <0.80, 1.08, 0.94> translate <0, 1.64, -0.01> } cylinder { <0,1.44,0>, <0,1.56,0>, 0.052 }
    sphere { <0,0,0>, 0.045 translate <-0.25,1.38,0>+vrotate(<0,-0.28,0>, x*-S*0.8)+vrotate(<0,-0.29,0>, x*(-S*0.8+18)) } sphere { <0,0,0>, 0.045 translate <0.25,1.38,0>+vrotate(<0,-0.28,0>, x*S*0.8)+vrotate(<0,-0.29,0>, x*(S*0.8+18)) }
    sphere { <0, 1.62, -0.115>, 0.018 } pigment { rgb <0.50, 0.32, 0.22> } finish { diffuse 0.75 specular 0.12 roughness 0.06 } }
  union { sphere { <0,0,0>, 0.122 scale <0.86, 1.0, 0.96> translate <0, 1.675, 0.022> } torus { 0.125, 0.012 scale <0.9,1,1.1> translate <0,1.70,0> } sphere { <0,0,0>, 0.118 scale <0.86,0.75,0.95> translate <0,1.72,0> } Cloth(<0.10,0.09,0.075>, 0.5) }
  union { sphere { <0,0,0>, 1 scale <0.05,0.04,0.13> translate <-0.10,0.92,0>+vrotate(<0,-0.44,0.02>, x*S)+vrotate(<0,-0.44,-0.05>, x*(S*0.6-14)) } sphere { <0,0,0>, 1 scale <0.05,0.04,0.13> translate <0.10,0.92,0>+vrotate(<0,-0.44,0.02>, x*-S)+vrotate(<0,-0.44,-0.05>, x*(-S*0.6-14)) } pigment { rgb <0.05,0.03,0.02> } finish { diffuse 0.6 specular 0.4 roughness 0.02 } }
  rotate y*24 translate <PX[Pose], 0, PZ[Pose]>
}
#end
