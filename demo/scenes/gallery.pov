// The gallery under the roof: pictures, windows onto the valley, a skylight; seen all round from a tripod in its middle, or with
// `Beside` from the hand beside it, the tripod taken away.
#include "common.inc"
#declare Eye = <0.15, 1.55, -0.2>;
#ifndef (Beside) #declare Beside = 0; #end
#declare Stand = Eye + Beside*<-0.62, 0.06, -0.55>;
camera { spherical angle 360 180 location Stand look_at Stand+z }
light_source { vnormalize(<0.62, 0.66, 0.42>)*2000 rgb <1, 0.92, 0.78>*34 area_light x*16, y*16, 4, 4 adaptive 1 jitter circular orient }
Valley(9, -3)
#declare WX = 3.1; #declare WZ = 4.6; #declare H = 3.3;
#declare WallTone = <0.52, 0.57, 0.52>;
#macro Dado(A, B) box { A, B texture { pigment { bozo scale 0.4 turbulence 0.5 color_map { [0 rgb <0.60,0.58,0.52>] [1 rgb <0.64,0.62,0.56>] } } normal { granite 0.02 scale 0.1 } finish { diffuse 0.82 specular 0.06 roughness 0.06 } } } #end
// floor
object { Planks(-WX, WX, -WZ, WZ, 0.14, 21) }
box { <-WX-0.3, -0.4, -WZ-0.3>, <WX+0.3, -0.032, WZ+0.3> pigment { rgb 0.1 } }
// the window wall, +x: three sashes
difference {
  box { <WX, -0.1, -WZ-0.2>, <WX+0.28, H+0.1, WZ+0.2> }
  #local I = 0; #while (I < 3) box { <WX-0.1, 0.85, -3.35+I*2.7>, <WX+0.4, 2.55, -2.05+I*2.7> } #local I = I+1; #end
  Plaster(WallTone)
}
#local I = 0; #while (I < 3) union { SashWindow(1.3, 1.7, 3, 4, 0.03) rotate y*90 translate <WX+0.12, 0.85, -2.7+I*2.7> } #local I = I+1; #end
// the other walls
box { <-WX-0.2, -0.1, -WZ-0.2>, <-WX, H+0.1, WZ+0.2> Plaster(WallTone) }
box { <-WX-0.2, -0.1, WZ>, <WX+0.2, H+0.1, WZ+0.2> Plaster(WallTone) }
difference { box { <-WX-0.2, -0.1, -WZ-0.2>, <WX+0.2, H+0.1, -WZ> } box { <-0.75, -0.2, -WZ-0.3>, <0.75, 2.25, -WZ+0.1> } Plaster(WallTone) }
#macro Rail(Y, D, T) union { box { <-WX, Y, -WZ>, <-WX+D, Y+T, WZ> } box { <WX-D, Y, -WZ>, <WX, Y+T, WZ> } box { <-WX, Y, WZ-D>, <WX, Y+T, WZ> } box { <-WX, Y, -WZ>, <-0.85, Y+T, -WZ+D> } box { <0.85, Y, -WZ>, <WX, Y+T, -WZ+D> } texture { WhitePaint } } #end
Rail(0, 0.025, 0.17) Rail(0.74, 0.04, 0.06) Rail(H-0.14, 0.09, 0.14)
#local I = 0; #while (I < 11) Dado(<-WX, 0.17, -WZ+0.08+I*0.84>, <-WX+0.014, 0.74, -WZ+0.80+I*0.84>) Dado(<WX-0.014, 0.17, -WZ+0.08+I*0.84>, <WX, 0.74, -WZ+0.80+I*0.84>) #local I = I+1; #end
// ceiling: beams, boards between, a skylight
difference { box { <-WX-0.2, H, -WZ-0.2>, <WX+0.2, H+0.25, WZ+0.2> } box { <-0.9, H-0.1, -0.1>, <0.9, H+0.4, 2.3> } texture { pigment { wood turbulence 0.05 scale <0.08, 0.08, 2> color_map { [0 rgb <0.62,0.55,0.44>] [1 rgb <0.72,0.66,0.55>] } } normal { gradient x 0.4 scale 0.18 slope_map { [0 <0,1>] [0.04 <1,0>] [0.96 <1,0>] [1 <0,-1>] } } finish { diffuse 0.8 } } }
#local I = 0; #while (I < 8) box { <-WX, H-0.2, -WZ+0.35+I*1.2>, <WX, H, -WZ+0.53+I*1.2> Wood(Walnut*1.3, WalnutLight*1.4, 1.2) } #local I = I+1; #end
union { #local I = 0; #while (I < 4) box { <-0.92+I*0.6, H+0.02, -0.1>, <-0.88+I*0.6, H+0.07, 2.3> } #local I = I+1; #end #local I = 0; #while (I < 4) box { <-0.9, H+0.02, -0.12+I*0.8>, <0.9, H+0.07, -0.08+I*0.8> } #local I = I+1; #end
  box { <-0.98, H-0.02, -0.18>, <-0.9, H+0.02, 2.38> } box { <0.9, H-0.02, -0.18>, <0.98, H+0.02, 2.38> } box { <-0.98, H-0.02, -0.18>, <0.98, H+0.02, -0.1> } box { <-0.98, H-0.02, 2.3>, <0.98, H+0.02, 2.38> } texture { WhitePaint } }
// a double door at -z
union { box { <-0.72, 0, -WZ-0.09>, <-0.01, 2.22, -WZ-0.05> } box { <0.01, 0, -WZ-0.09>, <0.72, 2.22, -WZ-0.05> }
  #local I = 0; #while (I < 2) #local J = 0; #while (J < 3) box { <-0.62+I*0.74, 0.15+J*0.69, -WZ-0.06>, <-0.12+I*0.74, 0.72+J*0.69, -WZ-0.035> } #local J = J+1; #end #local I = I+1; #end Wood(Oak*0.8, OakLight*0.8, 1) }
union { box { <-0.87, 0, -WZ-0.05>, <-0.75, 2.37, -WZ+0.03> } box { <0.75, 0, -WZ-0.05>, <0.87, 2.37, -WZ+0.03> } box { <-0.87, 2.25, -WZ-0.05>, <0.87, 2.37, -WZ+0.03> } texture { WhitePaint } }
sphere { <-0.06, 1.05, -WZ-0.02>, 0.03 texture { Brass } } sphere { <0.06, 1.05, -WZ-0.02>, 0.03 texture { Brass } }
// pictures: each a small landscape in a gilt or dark frame, in the plane z = 0
#macro Picture(W, T, Kind, S)
  #local R = seed(S);
  union {
    box { <-W/2, -T/2, 0.01>, <W/2, T/2, 0.02>
      #switch (Kind)
        #case (0) pigment { gradient y turbulence 0.12 octaves 5 scale T translate y*T/2 color_map { [0 rgb <0.10,0.13,0.05>] [0.30 rgb <0.24,0.26,0.10>] [0.42 rgb <0.36,0.42,0.42>] [0.55 rgb <0.74,0.66,0.50>] [1 rgb <0.30,0.44,0.62>] } } #break
        #case (1) pigment { bozo turbulence 0.9 octaves 6 scale 0.23 color_map { [0 rgb <0.05,0.08,0.13>] [0.45 rgb <0.14,0.24,0.32>] [0.6 rgb <0.55,0.52,0.42>] [1 rgb <0.72,0.40,0.20>] } } #break
        #case (2) pigment { agate scale 0.30 turbulence 0.5 color_map { [0 rgb <0.36,0.12,0.07>] [0.5 rgb <0.62,0.48,0.26>] [1 rgb <0.16,0.20,0.14>] } } #break
        #else pigment { onion turbulence 0.6 octaves 5 scale 0.19 translate <0.1,0.07,0> color_map { [0 rgb <0.68,0.66,0.58>] [0.35 rgb <0.30,0.36,0.42>] [0.7 rgb <0.10,0.12,0.17>] [1 rgb <0.52,0.47,0.35>] } }
      #end
      normal { bumps 0.1 scale 0.006 } finish { diffuse 0.8 specular 0.08 roughness 0.05 } translate <rand(R)*0.001, 0, 0> }
    #local F = 0.035+rand(R)*0.03;
    union { box { <-W/2-F, T/2, -0.02>, <W/2+F, T/2+F, 0.02> } box { <-W/2-F, -T/2-F, -0.02>, <W/2+F, -T/2, 0.02> } box { <-W/2-F, -T/2, -0.02>, <-W/2, T/2, 0.02> } box { <W/2, -T/2, -0.02>, <W/2+F, T/2, 0.02> }
      #if (rand(R) < 0.55) texture { pigment { rgb <0.52,0.38,0.16> } normal { wrinkles 0.25 scale 0.02 } finish { diffuse 0.55 specular 0.5 roughness 0.04 reflection 0.05 } } #else Wood(Walnut, WalnutLight, 0.4) #end }
    cylinder { <-W*0.3, T/2, 0.02>, <0, T/2+0.4, 0.02>, 0.0025 texture { Iron } } cylinder { <W*0.3, T/2, 0.02>, <0, T/2+0.4, 0.02>, 0.0025 texture { Iron } }
  }
#end
union { Picture(1.5, 0.95, 0, 1) rotate y*-90 translate <-WX+0.02, 1.72, -0.1> }
union { Picture(0.62, 0.78, 1, 2) rotate y*-90 translate <-WX+0.02, 1.78, -1.75> }
union { Picture(0.5, 0.40, 3, 3) rotate y*-90 translate <-WX+0.02, 1.95, -2.75> } union { Picture(0.5, 0.40, 2, 4) rotate y*-90 translate <-WX+0.02, 1.32, -2.75> }
union { Picture(0.7, 0.9, 2, 5) rotate y*-90 translate <-WX+0.02, 1.75, -3.75> }
union { Picture(0.8, 0.62, 3, 6) rotate y*-90 translate <-WX+0.02, 1.85, 1.65> } union { Picture(0.44, 0.55, 0, 7) rotate y*-90 translate <-WX+0.02, 1.6, 2.7> } union { Picture(0.9, 1.1, 1, 8) rotate y*-90 translate <-WX+0.02, 1.75, 3.75> }
union { Picture(1.3, 0.9, 2, 9) translate <0.1, 1.9, WZ-0.02> } union { Picture(0.55, 0.7, 0, 10) translate <-1.45, 1.75, WZ-0.02> } union { Picture(0.6, 0.5, 1, 11) translate <1.75, 1.85, WZ-0.02> }
union { Picture(0.7, 0.55, 0, 12) rotate y*180 translate <-1.9, 1.8, -WZ+0.02> } union { Picture(0.6, 0.8, 3, 13) rotate y*180 translate <1.9, 1.75, -WZ+0.02> }
union { Picture(0.42, 0.55, 2, 14) rotate y*90 translate <WX-0.02, 1.72, -1.35> } union { Picture(0.42, 0.5, 3, 15) rotate y*90 translate <WX-0.02, 1.72, 1.35> }
union { Picture(0.5, 0.62, 1, 16) rotate y*90 translate <WX-0.02, 1.7, 3.95> }
// furniture
union { Bookcase(2.4, 1.05, 2, 61) translate <-1.1, 0, WZ-0.36> }
union { TableLamp(0.34, 0.13, 1.4, <1, 0.62, 0.30>) translate <0.95, 1.1, WZ-0.2> }
union { Armchair(<0.16, 0.22, 0.20>) rotate y*-118 translate <-2.35, 0, 0.9> } union { Armchair(<0.34, 0.14, 0.08>) rotate y*-62 translate <-2.3, 0, -1.1> }
union { cylinder { <0, 0.50, 0>, <0, 0.53, 0>, 0.28 } cylinder { <0, 0, 0>, <0, 0.5, 0>, 0.03 } cylinder { 0, <0, 0.03, 0>, 0.17 } Wood(Walnut, WalnutLight, 1) translate <-2.5, 0, -0.05> }
union { #local I = 0; #while (I < 4) box { <-0.1, I*0.028, -0.075>, <0.1, I*0.028+0.024, 0.075> pigment { rgb <0.2+0.1*I, 0.13, 0.10+0.04*I> } rotate y*(I*23) } #local I = I+1; #end translate <-2.5, 0.53, -0.05> }
// bench, rug, globe, plant
union { box { <-0.22, 0.42, -0.75>, <0.22, 0.47, 0.75> } #local I = 0; #while (I < 4) box { <-0.2+mod(I,2)*0.35, 0, -0.68+div(I,2)*1.3>, <-0.15+mod(I,2)*0.35, 0.42, -0.63+div(I,2)*1.3> } #local I = I+1; #end Wood(Oak, OakLight, 1) translate <1.9, 0, 1.1> }
box { <-0.21, 0.47, -0.7>, <0.21, 0.53, 0.7> Cloth(<0.30, 0.09, 0.06>, 1) translate <1.9, 0, 1.1> }
// its rug is knotted by hand: no two of its figures are alike
#macro Diamond(X, Z, S, T, Y, C) prism { 0, Y, 5, <-S, 0>, <0, -S*T>, <S, 0>, <0, S*T>, <-S, 0> texture { pigment { rgb C } normal { wrinkles 0.3 scale 0.02 } finish { diffuse 0.75 } } translate <X, 0, Z> } #end
union { box { <-1.1, 0, -1.7>, <1.1, 0.012, 1.7> Cloth(<0.16, 0.05, 0.04>, 1.5) }
  box { <-1.0, 0, -1.6>, <1.0, 0.0135, 1.6> texture { pigment { bozo turbulence 0.7 octaves 6 scale <0.5, 1, 0.12> color_map { [0 rgb <0.20,0.06,0.045>] [0.5 rgb <0.27,0.09,0.06>] [1 rgb <0.34,0.13,0.08>] } } normal { wrinkles 0.3 scale 0.02 } finish { diffuse 0.75 } } }
  #local R = seed(77); #local Tones = array[6] { <0.33,0.27,0.17>, <0.05,0.07,0.11>, <0.30,0.15,0.07>, <0.10,0.12,0.09>, <0.20,0.045,0.035>, <0.13,0.16,0.20> }
  #macro Tone() Tones[floor(rand(R)*5.99)]*(0.8+rand(R)*0.4) #end
  #local J = 0; #while (J < 17) #local I = 0; #while (I < 7)
    #local X = -0.84+I*0.28+(rand(R)-0.5)*0.05; #local Z = -1.5+J*0.1875+mod(I,2)*0.09+(rand(R)-0.5)*0.04; #local S = 0.05+0.05*rand(R); #local T = 0.7+rand(R)*0.5; #local N = 2+floor(rand(R)*2.99); #local K = 0;
    #while (K < N) Diamond(X+(rand(R)-0.5)*0.008, Z+(rand(R)-0.5)*0.008, S*(1-K/(N+rand(R)*0.5)), T*(0.9+rand(R)*0.2), 0.0138+K*0.0002, Tone()) #local K = K+1; #end
    #if (rand(R) < 0.7) Diamond(X+0.14, Z+(rand(R)-0.5)*0.1, 0.012+0.02*rand(R), 1.1, 0.0137, Tone()) #end
    #local I = I+1; #end #local J = J+1; #end
  #local I = 0; #while (I < 2) box { <-1.06+I*2.04, 0, -1.66>, <-0.98+I*2.04, 0.0136, 1.66> texture { pigment { bozo turbulence 0.3 scale <0.3,1,0.05> color_map { [0.4 rgb Tones[1]] [0.42 rgb Tones[0]] [0.6 rgb Tones[0]] [0.62 rgb Tones[2]] } } normal { wrinkles 0.3 scale 0.02 } finish { diffuse 0.75 } } } #local I = I+1; #end
  rotate y*4 translate <0.1, 0, 0.2> }
union { sphere { 0, 0.26 texture { pigment { bozo turbulence 0.7 octaves 6 scale 0.22 color_map { [0 rgb <0.10,0.19,0.26>] [0.52 rgb <0.16,0.27,0.32>] [0.54 rgb <0.44,0.36,0.20>] [1 rgb <0.30,0.30,0.15>] } } finish { diffuse 0.75 specular 0.3 roughness 0.02 } } rotate z*23 } torus { 0.29, 0.012 rotate x*90 texture { Brass } } translate <2.35, 0.95, -1.35> }
union { cylinder { <0, 0, 0>, <0, 0.68, 0>, 0.025 } cylinder { 0, <0,0.03,0>, 0.2 } Wood(Walnut, WalnutLight, 1) translate <2.35, 0, -1.35> }
lathe { cubic_spline 7, <0,-0.02>, <0.16,0>, <0.19,0.1>, <0.22,0.3>, <0.24,0.36>, <0.20,0.35>, <0,0.33> pigment { rgb <0.42,0.20,0.11> } normal { bumps 0.1 scale 0.02 } finish { diffuse 0.8 } translate <-2.55, 0, 4.0> }
#local R = seed(5); #local I = 0; #while (I < 46) sphere_sweep { cubic_spline 5, <0,0.2,0>, 0.01 <0,0.33,0>, 0.008 <0.10,0.62+rand(R)*0.5,0>, 0.02 <0.30+rand(R)*0.16,0.8+rand(R)*0.55,0>, 0.035 <0.5,0.8,0>, 0.004 scale <1,1,0.5> pigment { rgb <0.06+rand(R)*0.07,0.15+rand(R)*0.1,0.04> } finish { diffuse 0.8 specular 0.15 roughness 0.05 } rotate y*I*73 translate <-2.55, 0, 4.0> } #local I = I+1; #end
// a brass telescope on a wooden stand by the window
union { cylinder { <0,0,-0.6>, <0,0,0.45>, 0.055 texture { Brass } } cylinder { <0,0,-0.85>, <0,0,-0.6>, 0.038 texture { Brass } } cylinder { <0,0,0.45>, <0,0,0.52>, 0.07 texture { Brass } } rotate x*-14 rotate y*62 translate <2.2, 1.35, 3.1> }
#local I = 0; #while (I < 3) cylinder { <2.2, 1.3, 3.1>, <2.2, 0, 3.1>+vrotate(<0.38,0,0>, y*(I*120+20)), 0.02 Wood(Walnut, WalnutLight, 0.5) } #local I = I+1; #end
// lamps on the beams
#local I = 0; #while (I < 2) union { cylinder { <0, H-0.7, -2.4+I*5.4>, <0, H, -2.4+I*5.4>, 0.007 texture { Iron } } sphere { <0, H-0.8, -2.4+I*5.4>, 0.13 pigment { rgb 1 } finish { diffuse 0.3 emission <1,0.82,0.58>*1.6 } } } light_source { <0, H-1.0, -2.4+I*5.4> rgb <1, 0.78, 0.50>*0.3 fade_distance 1 fade_power 2 area_light x*0.25, z*0.25, 3, 3 adaptive 1 jitter } #local I = I+1; #end
// the tripod
#if (!Beside) union { #local I = 0; #while (I < 3) cylinder { Eye-<0, 0.32, 0>, <Eye.x, 0, Eye.z>+vrotate(<0.52,0,0>, y*(I*120+75)), 0.016 } sphere { <Eye.x, 0.012, Eye.z>+vrotate(<0.52,0,0>, y*(I*120+75)), 0.024 } #local I = I+1; #end
    cylinder { Eye-<0, 0.62, 0>, Eye-<0, 0.22, 0>, 0.02 } cylinder { Eye-<0, 0.36, 0>, Eye-<0, 0.28, 0>, 0.05 } cylinder { Eye-<-0.03, 0.26, 0.02>, Eye-<0.11, 0.26, -0.05>, 0.011 } texture { Iron } } #end
