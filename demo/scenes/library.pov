// The library: bookcases, three sash windows onto the valley, late-morning sun.
#include "common.inc"
camera { perspective location <-2.6, 1.45, -3.3> look_at <0.25, 1.28, 0.6> right x*1.5 up y angle 74 }
#declare SunDir = vnormalize(<-0.52, 0.62, 0.75>);
light_source { SunDir*2000 rgb <1, 0.93, 0.80>*62 area_light x*18, y*18, 4, 4 adaptive 1 jitter circular orient }
Valley(17, 0)
// room: x -3.4..3.4, z -4..2.6, y 0..2.9; windows in z = 2.6
object { Planks(-3.5, 3.5, -4.2, 2.7, 0.13, 11) }
#declare Win = union { #local I = -1; #while (I < 2) box { <I*1.75-0.6, 0.85, 2.5>, <I*1.75+0.6, 2.45, 3.1> } #local I = I+1; #end }
difference { box { <-3.6, -0.1, 2.6>, <3.6, 3.1, 2.9> } object { Win } Plaster(<0.74, 0.69, 0.58>) }
box { <-3.6, -0.1, -4.4>, <-3.4, 3.1, 2.9> Plaster(<0.74, 0.69, 0.58>) }
box { <3.4, -0.1, -4.4>, <3.6, 3.1, 2.9> Plaster(<0.74, 0.69, 0.58>) }
box { <-3.6, -0.1, -4.4>, <3.6, 3.1, -4.2> Plaster(<0.74, 0.69, 0.58>) }
box { <-3.6, 2.9, -4.4>, <3.6, 3.1, 2.9> Plaster(<0.83, 0.82, 0.79>) }
box { <-3.6, -0.3, -4.4>, <3.6, -0.03, 2.9> pigment { rgb 0.1 } }
// ceiling beams, skirting, cornice
#local I = 0; #while (I < 4) box { <-3.4, 2.74, -3.2+I*1.7>, <3.4, 2.9, -3.04+I*1.7> Wood(Walnut, WalnutLight, 1.3) } #local I = I+1; #end
box { <-3.4, 0, 2.57>, <3.4, 0.14, 2.6> texture { WhitePaint } }
box { <3.37, 0, -4.2>, <3.4, 0.14, 2.6> texture { WhitePaint } }
#local I = -1; #while (I < 2) union { SashWindow(1.2, 1.6, 3, 4, 0.022) translate <I*1.75, 0.85, 2.66> } #local I = I+1; #end
// bookcases along the right wall and between
union { Bookcase(2.2, 2.35, 6, 3) rotate y*90 translate <3.05, 0, 1.9> }
union { Bookcase(2.2, 2.35, 6, 71) rotate y*90 translate <3.05, 0, -0.45> }
union { Bookcase(1.5, 2.35, 6, 131) rotate y*-90 translate <-3.05, 0, 0.9> }
// rug: a woven field in a border
#macro Weave(C) texture { pigment { average pigment_map { [1 bozo scale 0.05 turbulence 0.6 color_map { [0 rgb C*0.8] [1 rgb C*1.2] }] [1 gradient x scale 0.008 color_map { [0 rgb C*0.8] [0.5 rgb C*1.15] [1 rgb C*0.8] }] } } normal { granite 0.4 scale 0.02 } finish { diffuse 0.75 } } #end
box { <-1.5, 0, -1.5>, <1.7, 0.010, 1.3> Weave(<0.07, 0.085, 0.13>) }
box { <-1.42, 0, -1.42>, <1.62, 0.011, 1.22> Weave(<0.42, 0.34, 0.22>) }
box { <-1.36, 0, -1.36>, <1.56, 0.012, 1.16> Weave(<0.25, 0.065, 0.05>) }
#local RR = seed(8); #local I = 0;
#while (I < 8) #local J = 0; #while (J < 7)
  box { <-0.1, 0, -0.1>, <0.1, 0.0125, 0.1> #if (mod(I+J, 2)) Weave(<0.09, 0.10, 0.15>) #else Weave(<0.46, 0.36, 0.22>) #end scale 0.8 rotate y*45 translate <-1.17+I*0.36, 0, -1.17+J*0.36> }
  box { <-0.05, 0, -0.05>, <0.05, 0.0132, 0.05> Weave(<0.28, 0.075, 0.055>) rotate y*45 translate <-1.17+I*0.36, 0, -1.17+J*0.36> }
#local J = J+1; #end #local I = I+1; #end
// table with globe, open book
union {
  cylinder { <0, 0.72, 0>, <0, 0.755, 0>, 0.62 } cylinder { <0, 0.05, 0>, <0, 0.72, 0>, 0.05 }
  #local I = 0; #while (I < 3) sphere_sweep { cubic_spline 5, <0,0.30,0>, 0.03 <0,0.28,0>, 0.03 <0.22,0.14,0>, 0.028 <0.42,0.03,0>, 0.03 <0.5,0.02,0>, 0.03 rotate y*(I*120+20) } #local I = I+1; #end
  Wood(Walnut, WalnutLight, 1.2) translate <0.1, 0, -0.1>
}
union {
  sphere { <0, 0.30, 0>, 0.17 texture { pigment { bozo turbulence 0.7 octaves 6 scale 0.14 color_map { [0.5 rgb <0.12, 0.20, 0.24>] [0.52 rgb <0.48, 0.40, 0.25>] [1 rgb <0.34, 0.33, 0.17>] } } finish { diffuse 0.75 specular 0.25 roughness 0.02 reflection 0.02 } } }
  torus { 0.195, 0.008 rotate x*90 translate y*0.30 texture { Brass } }
  torus { 0.205, 0.006 translate y*0.30 texture { Brass } }
  lathe { cubic_spline 6, <0,-0.01>, <0.11, 0>, <0.10, 0.02>, <0.02, 0.05>, <0.018, 0.1>, <0.0, 0.11> texture { Brass } }
  rotate y*25 translate <-0.12, 0.755, 0.1>
}
union { box { <-0.15, 0, -0.11>, <-0.004, 0.022, 0.11> rotate z*-3 } box { <0.004, 0, -0.11>, <0.15, 0.022, 0.11> rotate z*3 } texture { pigment { gradient z scale 0.014 color_map { [0 rgb 0.75] [0.35 rgb <0.74,0.72,0.66>] [0.4 rgb <0.5,0.48,0.44>] [0.55 rgb <0.74,0.72,0.66>] } } } rotate y*-35 translate <0.35, 0.757, -0.32> }
union { Armchair(<0.05, 0.13, 0.105>) rotate y*-128 translate <1.75, 0, -0.75> }
union { Armchair(<0.05, 0.13, 0.105>) rotate y*35 translate <-1.15, 0, 1.35> }
// side table and lamp
union { cylinder { <0,0.5,0>, <0,0.525,0>, 0.24 } cylinder { <0,0,0>, <0,0.5,0>, 0.022 } cylinder { <0,0,0>, <0,0.02,0>, 0.17 } Wood(Walnut, WalnutLight, 1) translate <2.45, 0, 0.25> }
union { TableLamp(0.42, 0.17, 2.6, <1, 0.62, 0.30>) translate <2.45, 0.525, 0.25> }
// plant on the sill
union { #local R = seed(5); #local I = 0; #while (I < 70) #local A = rand(R)*360; #local L = 0.12+rand(R)*0.16;
  sphere_sweep { cubic_spline 5, <0,-0.02,0>, 0.004 <0,0,0>, 0.005 <L*0.5, L*0.9, 0>, 0.009 <L, L*(0.75+rand(R)*0.5), 0>, 0.003 <L*1.2, L, 0>, 0.001 rotate y*A } #local I = I+1; #end
  pigment { rgb <0.07, 0.16, 0.035> } finish { diffuse 0.75 specular 0.15 roughness 0.04 } translate <-1.45, 0.95, 2.5> }
cylinder { <-1.45, 0.8, 2.5>, <-1.45, 0.95, 2.5>, 0.075 pigment { rgb <0.42, 0.19, 0.11> } }
