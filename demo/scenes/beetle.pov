// A beetle with bristles on bright paper, close to: 20 mm from side to side. `Leg` lifts one of its legs.
#include "macro.inc"
#ifndef (Leg) #declare Leg = 0; #end
Lens(<4, 17, -27>, <0.1, 2.2, -0.6>, 23)
sky_sphere { pigment { gradient y colour_map { [0 rgb <0.75, 0.72, 0.66>] [1 rgb <0.85, 0.9, 1>] } } }
Softbox(<-30, 42, -6>, <0, 1, 0>, 16, <1, 0.97, 0.90>, 0.85)
Softbox(<34, 26, 18>, <0, 1, 0>, 12, <0.86, 0.93, 1>, 0.55)
#declare R = seed(4711);

plane { y, 0 pigment { bozo scale 0.7 turbulence 0.5 colour_map { [0 rgb <0.80, 0.78, 0.72>] [1 rgb <0.90, 0.885, 0.84>] } } normal { granite 0.12 scale 0.6 } finish { diffuse 0.8 ambient 0.12 } }
// fibres of the paper
#local I = 0;
#while (I < 220)
  #local P = <(rand(R) - 0.5)*26, 0, (rand(R) - 0.35)*26>;
  #local A = rand(R)*2*pi;
  sphere_sweep { b_spline 4, P - <cos(A), 0, sin(A)>*0.9, 0.022, P + y*(0.02 + rand(R)*0.05), 0.022, P + <cos(A + 0.4), 0, sin(A + 0.4)>*0.7 + y*0.03, 0.022, P + <cos(A), 0, sin(A)>*1.5, 0.02 pigment { rgb <0.74, 0.70, 0.62>*(0.7 + rand(R)*0.4) } }
  #local I = I + 1;
#end

#declare Shell = texture {
  pigment { average pigment_map { [1 granite scale 0.5 colour_map { [0 rgb <0.01, 0.14, 0.06>] [0.6 rgb <0.03, 0.36, 0.12>] [1 rgb <0.30, 0.36, 0.06>] }] [1 bozo scale 1.6 colour_map { [0 rgb <0.02, 0.20, 0.30>] [1 rgb <0.42, 0.26, 0.04>] }] } }
  normal { average normal_map { [2 leopard 0.35 scale 0.07] [1 granite 0.10 scale 0.3] } }
  finish { diffuse 0.65 specular 1.1 roughness 0.010 metallic reflection { 0.10 metallic } }
}
#declare Horn = texture { pigment { granite scale 0.4 colour_map { [0 rgb <0.02, 0.016, 0.012>] [1 rgb <0.07, 0.05, 0.03>] } } normal { bumps 0.2 scale 0.06 } finish { diffuse 0.7 specular 0.6 roughness 0.02 reflection { 0.01, 0.12 fresnel } } }
#declare Hair = texture { pigment { rgb <0.20, 0.13, 0.06> } finish { diffuse 0.7 specular 0.5 roughness 0.05 } }

/** Bristles that stand out of an ellipsoid at C with half axes S, over what Low and High bound. */
#macro Bristles(C, S, Count, Long, Low)
  #local I = 0;
  #while (I < Count)
    #local Z = 1 - 2*rand(R);
    #local A = rand(R)*2*pi;
    #local N = <sqrt(1 - Z*Z)*cos(A), sqrt(1 - Z*Z)*sin(A), Z>;
    #if (N.y > Low)
      #local P = C + N*S;
      #local D = vnormalize(vnormalize(N/S) + <rand(R) - 0.5, rand(R)*0.4, rand(R) - 0.7>*0.7);
      cone { P, 0.019, P + D*Long*(0.5 + rand(R)), 0.004 texture { Hair } }
    #end
    #local I = I + 1;
  #end
#end

// wing cases, with their grooves, and the seam between them
difference {
  sphere { 0, 1 scale <2.7, 2.0, 4.1> translate <0, 2.2, 2.6> }
  box { <-0.035, 3.2, -3>, <0.035, 6, 8> }
  #local I = 1;
  #while (I < 5) torus { 4.0, 0.05 rotate z*90 scale <1, 0.5, 1> translate <-0.6*I, 2.2, 2.6> } torus { 4.0, 0.05 rotate z*90 scale <1, 0.5, 1> translate <0.6*I, 2.2, 2.6> } #local I = I + 1; #end
  texture { Shell }
}
sphere { 0, 1 scale <2.15, 1.55, 1.5> translate <0, 2.15, -1.6> texture { Shell } }
sphere { 0, 1 scale <1.25, 1.05, 1.15> translate <0, 1.75, -3.5> texture { Shell } }
sphere { <-1.02, 2.0, -3.9>, 0.42 texture { Horn finish { reflection 0.15 } } }
sphere { <1.02, 2.0, -3.9>, 0.42 texture { Horn finish { reflection 0.15 } } }
Bristles(<0, 2.2, 2.6>, <2.7, 2.0, 4.1>, 900, 0.62, 0.05)
Bristles(<0, 2.15, -1.6>, <2.15, 1.55, 1.5>, 420, 0.85, 0)
Bristles(<0, 1.75, -3.5>, <1.25, 1.05, 1.15>, 240, 0.7, -0.2)
#macro Limb(A, B, C, D, W)
  sphere_sweep { linear_spline 4, A, W*1.3, B, W, C, W*0.75, D, W*0.45 texture { Horn } }
  #local I = 0;
  #while (I < 26)
    #local T = rand(R);
    #local P = (T < 0.5 ? A + (B - A)*T*2 : B + (C - B)*(T - 0.5)*2);
    #local N = vnormalize(<rand(R) - 0.5, rand(R) - 0.3, rand(R) - 0.5>);
    cone { P + N*W*0.6, 0.02, P + N*(W + 0.22 + 0.3*rand(R)), 0.004 texture { Hair } }
    #local I = I + 1;
  #end
#end
#local S = -1;
#while (S < 2)
  Limb(<S*1.5, 1.7, -1.9>, <S*3.3, 2.5 + (S > 0)*Leg*0.8, -3.4>, <S*4.6, 0.7 + (S > 0)*Leg*1.3, -5.4 + (S > 0)*Leg*0.7>, <S*4.4, 0.12 + (S > 0)*Leg*1.6, -6.8 + (S > 0)*Leg*0.9>, 0.27)
  Limb(<S*2.0, 1.5, 0.4>, <S*4.4, 2.7, 0.2>, <S*6.2, 0.6, -0.7>, <S*7.3, 0.12, -0.9>, 0.27)
  Limb(<S*2.1, 1.6, 3.2>, <S*4.2, 2.9, 4.6>, <S*5.9, 0.7, 6.6>, <S*6.6, 0.12, 8.0>, 0.27)
  // feelers, jointed
  sphere_sweep { b_spline 7, <S*0.4, 1.9, -4.2>, 0.11, <S*0.6, 2.1, -4.5>, 0.11, <S*1.3, 3.1, -5.3>, 0.10, <S*2.4, 3.7, -6.2>, 0.09, <S*3.3, 3.5, -7.3>, 0.08, <S*3.7, 3.0, -8.2>, 0.07, <S*3.8, 2.8, -8.6>, 0.06 texture { Horn } }
  sphere_sweep { linear_spline 3, <S*0.35, 1.35, -4.4>, 0.2, <S*0.6, 1.0, -5.2>, 0.16, <S*0.12, 0.9, -5.5>, 0.05 texture { Horn } }
  #local S = S + 2;
#end
