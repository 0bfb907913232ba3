// The dome room: the great refractor under the open slit, a desk with a warm lamp.
#include "common.inc"
camera { perspective location <-2.75, 1.5, -3.35> look_at <0.35, 2.2, 0.6> right x*1.5 up y angle 86 }
#declare SunDir = vnormalize(<-0.62, 0.80, 0.32>);
light_source { SunDir*2000 rgb <1, 0.94, 0.84>*62 area_light x*16, z*16, 4, 4 adaptive 1 jitter circular orient }
Valley(16, -4)
object { Planks(-4.9, 4.9, -4.9, 4.9, 0.15, 31) }
// round wall with four small windows; dome with slit and ribs
difference { cylinder { <0,-0.2,0>, <0, 2.35, 0>, 5.0 } cylinder { <0,-0.3,0>, <0, 2.5, 0>, 4.75 }
  #local I = 0; #while (I < 3) box { <-0.45, 0.9, 4>, <0.45, 1.95, 6> rotate y*(-2+I*46) } #local I = I+1; #end
  Plaster(<0.66, 0.64, 0.57>) }
#local I = 0; #while (I < 3) union { SashWindow(0.9, 1.05, 2, 3, 0.022) translate <0, 0.9, 4.84> rotate y*(-2+I*46) } #local I = I+1; #end
union { cylinder { <0, 2.28, 0>, <0, 2.46, 0>, 4.79 open } torus { 4.76, 0.05 translate y*2.38 } torus { 4.74, 0.03 translate y*2.26 } texture { PaintedSteel } }
#declare Slit = box { <-0.62, 0, -0.9>, <0.62, 8, 6> rotate y*14 };
difference { sphere { <0, 2.3, 0>, 4.95 } sphere { <0, 2.3, 0>, 4.85 } plane { y, 2.3 } object { Slit } Wood(<0.30,0.22,0.15>, <0.44,0.34,0.24>, 1.6) }
#local I = 0; #while (I < 28) difference { torus { 4.85, 0.045 rotate x*90 rotate y*I*360/56 translate y*2.3 } plane { y, 2.3 } object { Slit } Wood(Walnut, WalnutLight, 1.2) } #local I = I+1; #end
union { box { <-0.72, 2.4, 4.55>, <-0.62, 3.2, 4.9> } difference { torus { 4.83, 0.07 rotate z*90 translate <-0.66, 2.3, 0> } plane { y, 2.4 } plane { z, -0.9 } } difference { torus { 4.83, 0.07 rotate z*90 translate <0.66, 2.3, 0> } plane { y, 2.4 } plane { z, -0.9 } } rotate y*14 texture { PaintedSteel } }
#local I = 0; #while (I < 3) difference { torus { 4.85*cos(radians(22+I*22)), 0.03 translate y*(2.3+4.85*sin(radians(22+I*22))) } object { Slit } texture { Iron } } #local I = I+1; #end
// pier and mount
union { cone { <0, 0, 0>, 0.42, <0, 1.5, 0>, 0.24 } cylinder { <0,0,0>, <0,0.1,0>, 0.62 } cylinder { <0,1.42,0>, <0,1.55,0>, 0.30 } texture { PaintedSteel } }
union { box { <-0.2, 1.5, -0.25>, <0.2, 1.85, 0.25> } cylinder { <0, 1.75, -0.5>, <0, 2.05, 0.55>, 0.17 } texture { PaintedSteel } rotate y*20 }
#declare Gear = difference { cylinder { <0,0,-0.03>, <0,0,0.03>, 0.42 } #local I = 0; #while (I < 60) box { <-0.011, 0.395, -0.1>, <0.011, 0.5, 0.1> rotate z*I*6 } #local I = I+1; #end #local I = 0; #while (I < 6) cylinder { <0, 0.24, -0.1>, <0, 0.24, 0.1>, 0.085 rotate z*I*60 } #local I = I+1; #end };
object { Gear texture { Brass } rotate y*20 translate <0.18, 2.02, 0.50> }
// telescope tube, pointed at the slit
union {
  cylinder { <0,0,-1.75>, <0,0,1.85>, 0.19 texture { pigment { rgb <0.72, 0.70, 0.62> } finish { diffuse 0.75 specular 0.45 roughness 0.012 reflection 0.03 } } }
  difference { cylinder { <0,0,1.80>, <0,0,2.45>, 0.235 } cylinder { <0,0,1.85>, <0,0,2.5>, 0.215 } texture { pigment { rgb <0.70, 0.68, 0.60> } finish { diffuse 0.75 specular 0.4 roughness 0.015 } } }
  torus { 0.195, 0.022 rotate x*90 translate z*-1.2 texture { Brass } } torus { 0.195, 0.022 rotate x*90 translate z*1.2 texture { Brass } } torus { 0.215, 0.03 rotate x*90 translate z*1.84 texture { Brass } }
  cone { <0,0,-1.75>, 0.19, <0,0,-1.98>, 0.09 texture { Brass } } cylinder { <0,0,-1.98>, <0,0,-2.35>, 0.05 texture { Brass } } cylinder { <0,0,-2.35>, <0,0,-2.48>, 0.036 texture { Iron } } torus { 0.075, 0.014 rotate x*90 translate z*-2.05 texture { Brass } }
  cylinder { <0.20, 0.17, -1.85>, <0.20, 0.17, -0.6>, 0.035 texture { Brass } }
  torus { 0.13, 0.012 rotate x*90 translate <-0.05,-0.25,-1.7> texture { Iron } }
  rotate x*-42 rotate y*14 translate <0.05, 2.35, 0.2>
}
union { cylinder { <0.35, 2.15, 0>, <-1.0, 2.15, 0>, 0.075 } cylinder { <0.5, 2.15, 0>, <0.95, 2.15, 0>, 0.19 } rotate y*14 translate <0.05, 0.15, 0.2> texture { Iron } }
// observing ladder
union { #local I = 0; #while (I < 9) box { <-0.3, 0.25+I*0.27, I*0.11>, <0.3, 0.28+I*0.27, I*0.11+0.2> } #local I = I+1; #end
  cylinder { <-0.31, 0, 0.0>, <-0.31, 2.75, 1.12>, 0.028 } cylinder { <0.31, 0, 0.0>, <0.31, 2.75, 1.12>, 0.028 }
  Wood(Oak, OakLight, 1) rotate y*200 translate <-0.9, 0, -0.2> translate <2.9, 0, -0.6> }
// desk with charts and lamp
union { box { <-0.8, 0.72, -0.38>, <0.8, 0.76, 0.38> } box { <-0.76,0,-0.34>, <-0.30,0.72,0.34> } box { <0.30,0,-0.34>, <0.76,0.72,0.34> }
  Wood(Walnut, WalnutLight, 1.1) rotate y*-62 translate <-3.35, 0, 1.55> }
#local I = 0; #while (I < 4) box { <-0.26, 0, -0.18>, <0.26, 0.004, 0.18> pigment { gradient x scale 0.06 color_map { [0 rgb <0.74,0.71,0.62>] [0.93 rgb <0.74,0.71,0.62>] [0.95 rgb 0.35] [1 rgb 0.5] } } rotate y*(I*29-40) translate <0.05+I*0.12, 0.762+I*0.004, -0.02> rotate y*-62 translate <-3.35, 0, 1.55> } #local I = I+1; #end
union { TableLamp(0.40, 0.15, 2.4, <1, 0.60, 0.28>) translate <-3.55, 0.762, 2.0> }
union { Armchair(<0.20, 0.08, 0.045>) scale 0.95 rotate y*150 translate <-2.2, 0, 1.9> }
union { Bookcase(1.6, 1.75, 5, 203) rotate y*58 translate <3.35, 0, 2.75> }
// a long rug
box { <-1.1, 0, -3.0>, <1.3, 0.012, -1.1> Cloth(<0.09, 0.11, 0.15>, 1.6) rotate y*-12 }
box { <-1.0, 0, -2.9>, <1.2, 0.0135, -1.2> Cloth(<0.26, 0.07, 0.05>, 1.6) rotate y*-12 }
