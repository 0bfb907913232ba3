// The valley on an afternoon in autumn, seen from the observatory's hill past its dome: 176 x 84 degrees of the sphere.
#version 3.7;
#include "functions.inc"
global_settings { assumed_gamma 1.0 noise_generator 3 max_trace_level 4 }
#include "land.inc"

#declare Ridged = function(x, z) { 1 - abs(2*f_noise3d(x*4.3+1, 2.7, z*4.3+9) - 1) }
#declare Rough = function(x, z) { f_noise3d(x*17, 5.1, z*17)*0.6 + f_noise3d(x*41, 8.2, z*41)*0.28 + f_noise3d(x*97, 3.2, z*97)*0.12 }
// how far a place lies from the river, which winds northwards
#declare Bed = function(z) { 0.5 + 0.040*sin(z*11+0.4) + 0.018*sin(z*27) }
#declare Off = function(x, z) { abs(x - Bed(z)) }
// a flat floor, its sides rising into hills, mountains across its end, and the hill one stands on
#declare Height = function(x, z) {
  0.050 + 0.010*f_noise3d(x*9, 1.3, z*9) - 0.014*exp(-pow(Off(x,z)/0.0040, 2))
  + pow(min(1, max(0, (Off(x,z)-0.055)*3.0)), 1.35)*(0.10 + 0.22*Ridged(x*0.9, z*0.9))
  + pow(max(0, min(z, 0.86)-0.55)*2.3, 1.6)*(1 - max(0, z-0.86)*6)*(0.10 + 0.85*Ridged(x*1.5, z*1.2)*Ridged(x*1.5, z*1.2))
  + 0.085*exp(-(pow(x-0.5, 2)*1.2 + pow(z-0.10, 2))/0.0008)
  + 0.010*Rough(x, z)*min(1, max(0, (Off(x,z)-0.03)*18))*(0.3 + 1.5*Ridged(x, z))
}
#declare Size = 9000; #declare Tall = 2600;
#declare Land = height_field { function 1800, 1800 { Height(x, 1-y) } smooth translate <-0.5, 0, -0.10> scale <Size, Tall, Size> }
#macro Ground(X, Z) #declare Up = <0,0,0>; #declare Hit = trace(Land, <X, 3000, Z>, -y, Up); #end
#macro Beside(Z, D) (Bed(Z/Size + 0.10) - 0.5 + D)*Size #end

// fields of many kinds with hedges between them, where it is flat
#declare Field = pigment { cells scale <46, 58, 9000> colour_map { [0 rgb <0.10,0.15,0.035>] [0.2 rgb <0.22,0.25,0.055>] [0.4 rgb <0.46,0.36,0.13>] [0.55 rgb <0.15,0.10,0.06>] [0.7 rgb <0.26,0.27,0.07>] [0.85 rgb <0.52,0.43,0.18>] [1 rgb <0.08,0.12,0.035>] } }
#declare Worn = pigment { average pigment_map { [1 Tufts] [1 Grass] } }
#declare Meadows = pigment { average pigment_map { [2.4 Field] [0.6 Worn] } }
#declare Hedge = pigment { rgb <0.022,0.036,0.013> }
#declare Fields = pigment { brick pigment { Hedge }, pigment { Meadows } brick_size <92, 58, 9000> mortar 4 rotate x*90 rotate y*24 }
#declare Wood = pigment { bozo scale 9 turbulence 0.4 colour_map { [0 rgb <0.020,0.035,0.012>] [0.45 rgb <0.045,0.055,0.018>] [0.6 rgb <0.16,0.10,0.025>] [0.75 rgb <0.07,0.075,0.02>] [1 rgb <0.20,0.12,0.03>] } }
#declare Slopes = pigment { slope { y } pigment_map { [0.0 Rock] [0.80 Rock] [0.86 Wood] [0.955 Wood] [0.98 Fields] [1 Fields] } }
object { Land texture { pigment { function { min(1, max(0, y/Tall + 0.03*(f_noise3d(x/260, y/260, z/260)-0.5))) } pigment_map { [0 Slopes] [0.27 Slopes] [0.34 Steep] [0.42 Rock] [0.47 Snow] [1 Snow] } } normal { average normal_map { [1 granite 0.30 scale 2.2] [1 bumps 0.12 scale 18] } } finish { diffuse 0.85 ambient 0 } } }
// the river
plane { y, 0.0475*Tall texture { pigment { colour rgb <0.012,0.022,0.026> } normal { bumps 0.03 scale <6,1,6> } finish { diffuse 0.4 ambient 0 specular 0.5 roughness 0.004 reflection { 0.06, 0.8 fresnel on } conserve_energy } } interior { ior 1.33 } }

#macro Crown(Dark, Light) texture { pigment { bozo scale 0.22 colour_map { [0 rgb Dark] [1 rgb Light] } } normal { bumps 1.1 scale 0.11 } finish { diffuse 0.85 ambient 0 } } #end
#macro Broadleaf(Dark, Light)
  union { cylinder { -y*0.5, y*3, 0.28 texture { Bark } }
    blob { threshold 0.5 #local J = 0; #while (J < 14) sphere { <(rand(R)-0.5)*4.6, 3.2+rand(R)*4.2, (rand(R)-0.5)*4.6>, 1.9+rand(R)*0.9, 1 } #local J = J+1; #end Crown(Dark, Light) } }
#end
#declare R = seed(5150);
#declare Tree = array[6];
#declare Tree[0] = Broadleaf(<0.05,0.06,0.015>, <0.12,0.12,0.03>)
#declare Tree[1] = Broadleaf(<0.20,0.09,0.015>, <0.42,0.22,0.05>)
#declare Tree[2] = Broadleaf(<0.26,0.17,0.03>, <0.50,0.36,0.08>)
#declare Tree[3] = Broadleaf(<0.05,0.055,0.018>, <0.16,0.13,0.04>)
#declare Tree[4] = Broadleaf(<0.16,0.05,0.015>, <0.33,0.13,0.04>)
#declare Tree[5] = object { Fir };
#macro Stood(What, X, Z, S) Ground(X, Z) #if (vlength(Up) > 0 & Up.y > 0.70 & Hit.y > 0.0490*Tall) object { What scale <1, 1+0.3*rand(R), 1>*S rotate y*rand(R)*360 translate Hit-y*0.3 } #end #end
// woods in patches over all that is seen; and along the river
#declare N = 0;
#while (N < 9000)
  #local D = 190 + 2900*pow(rand(R), 1.4); #local A = (rand(R)-0.5)*190*pi/180; #local P = <D*sin(A), 0, D*cos(A)>;
  #if (f_noise3d(P.x/210+4, 1, P.z/210) > 0.53) Stood(Tree[int(rand(R)*5.99)], P.x, P.z, 0.7+rand(R)*0.8) #end
  #declare N = N+1;
#end
#declare N = 0;
#while (N < 700)
  #local Z = 250 + N*4 + rand(R)*4;
  Stood(Tree[int(rand(R)*4.99)], Beside(Z, (rand(R) < 0.5 ? -1 : 1)*(0.0052+0.003*rand(R))), Z, 0.6+rand(R)*0.6)
  #declare N = N+1;
#end
// a village round its church
#macro House(L, W, T, Wall, Roof)
  union {
    box { <-L/2, -3, -W/2>, <L/2, T, W/2> texture { pigment { Wall } finish { diffuse 0.8 } } }
    prism { linear_sweep -L/2-0.3, L/2+0.3, 4, <-W/2-0.4,0>, <W/2+0.4,0>, <0,W*0.55>, <-W/2-0.4,0> rotate x*-90 rotate y*90 translate y*T texture { pigment { Roof } normal { gradient y 0.4 scale 0.3 } finish { diffuse 0.75 } } }
    #local J = 0; #while (J < 3) box { <-L/2+L*(0.15+J*0.28), T*0.35, -W/2-0.05>, <-L/2+L*(0.28+J*0.28), T*0.7, W/2+0.05> pigment { rgb <0.035,0.04,0.05> } finish { specular 0.4 reflection 0.15 } } #local J = J+1; #end
    box { <L*0.22, T, -0.4>, <L*0.22+0.8, T+W*0.55+1.0, 0.4> pigment { rgb <0.32,0.20,0.15> } }
  }
#end
#declare N = 0;
#while (N < 64)
  #local Z = 700 + 430*rand(R); #local X = Beside(Z, (rand(R) < 0.62 ? 1 : -1)*(0.010+0.028*rand(R)));
  Ground(X, Z)
  #local V = 0.45+0.35*rand(R);
  object { House(9+5*rand(R), 6.5+1.5*rand(R), 4+2.2*rand(R), rgb <V, V*0.95, V*0.84>, rgb <0.26+0.16*rand(R), 0.14+0.05*rand(R), 0.09+0.03*rand(R)>) rotate y*(90*int(rand(R)*2)+24*(rand(R)-0.5)) translate Hit+y*0.6 }
  #declare N = N+1;
#end
Ground(Beside(860, 0.022), 860)
union { object { House(24, 10, 8, rgb <0.66,0.62,0.54>, rgb <0.15,0.15,0.17>) } box { <-17, -3, -3.2>, <-11, 17, 3.2> pigment { rgb <0.62,0.58,0.50> } finish { diffuse 0.8 } } cone { <-14, 17, 0>, 4.4, <-14, 34, 0>, 0 pigment { rgb <0.14,0.16,0.18> } finish { diffuse 0.7 } } rotate y*28 translate Hit+y }
// a bridge
#local BZ = 640;
union { #local J = -4; #while (J < 5) difference { box { <J*9-4.5, -6, -2.6>, <J*9+4.5, 7.2, 2.6> } cylinder { <J*9, 1.5, -3>, <J*9, 1.5, 3>, 3.9 } box { <J*9-3.9, -7, -3>, <J*9+3.9, 1.5, 3> } } #local J = J+1; #end
  texture { pigment { brick colour rgb <0.30,0.28,0.25>, colour rgb <0.50,0.46,0.40> brick_size <1.2,0.5,0.6> mortar 0.06 } finish { diffuse 0.8 } } rotate y*-9 translate <Beside(BZ, 0), 0.0485*Tall, BZ> }

#declare Stone = texture { pigment { brick colour rgb <0.40,0.37,0.33>, colour rgb <0.58,0.53,0.46> brick_size <0.8,0.32,0.4> mortar 0.025 turbulence 0.02 } normal { granite 0.25 scale 0.3 } finish { diffuse 0.82 } }
Ground(0, 0) #declare Eye = Hit + y*11;
// the dome on the shoulder of the hill
#declare DX = -21; #declare DZ = 21; Ground(DX, DZ)
union {
  cylinder { -y*8, y*5.4, 6 texture { Stone } }
  cylinder { y*5.4, y*5.75, 6.35 texture { pigment { rgb <0.60,0.57,0.51> } finish { diffuse 0.8 } } }
  difference {
    sphere { y*6.0, 5.95 }
    sphere { y*6.0, 5.75 }
    box { <-0.85, 6.6, -0.5>, <0.85, 14, -7> rotate y*-40 }
    plane { y, 5.75 }
    texture { pigment { radial frequency 24 colour_map { [0 rgb <0.40,0.41,0.40>] [0.035 rgb <0.68,0.69,0.67>] [0.965 rgb <0.76,0.77,0.75>] [1 rgb <0.45,0.46,0.45>] } } normal { bumps 0.05 scale 0.6 } finish { diffuse 0.65 specular 0.25 roughness 0.06 reflection 0.05 } }
  }
  #local J = 0; #while (J < 9) box { <-0.55, 1.8, -6.1>, <0.55, 3.9, -5.7> pigment { rgb <0.03,0.035,0.04> } finish { specular 0.4 reflection 0.2 } rotate y*(J*40+12) } #local J = J+1; #end
  translate Hit
}
// a wall along the hill's edge, and rough grass before it
#declare N = 0;
#while (N < 620)
  #local A = -88 + N*0.285; #local D = 34 + 3*sin(N/31);
  Ground(D*sin(A*pi/180), D*cos(A*pi/180))
  superellipsoid { <0.5,0.5> scale <0.16+0.06*rand(R), 0.24+0.14*rand(R), 0.16+0.05*rand(R)> rotate y*(rand(R)*50-25+A) translate Hit+y*0.16 texture { pigment { Rock scale 0.015 } normal { granite 0.5 scale 0.4 } finish { diffuse 0.85 ambient 0 } } }
  #declare N = N+1;
#end
#declare N = 0;
#while (N < 2600)
  #local D = 7 + 60*pow(rand(R), 1.3); #local A = (rand(R)-0.5)*186*pi/180;
  Ground(D*sin(A), D*cos(A))
  union { #local J = 0; #while (J < 6) #local T = rand(R)*2*pi; #local B = 0.15+0.25*rand(R); cone { <0.05*cos(T), -0.05, 0.05*sin(T)>, 0.018, <B*cos(T), 0.35+0.4*rand(R), B*sin(T)>, 0.004 } #local J = J+1; #end
    #local V = rand(R); texture { pigment { rgb <0.10+0.20*V, 0.12+0.12*V, 0.03+0.05*V> } finish { diffuse 0.8 ambient 0 } } translate Hit }
  #declare N = N+1;
#end

Sun(<-0.85, 0.36, -0.42>, <3.2, 2.55, 1.85>) Fill(<2000, 9000, -6000>, <0.20, 0.26, 0.38>) Fill(<9000, 6000, 3000>, <0.08, 0.10, 0.15>)
sky_sphere {
  pigment { gradient y colour_map { [0 rgb <0.86,0.80,0.72>] [0.06 rgb <0.74,0.77,0.80>] [0.18 rgb <0.50,0.63,0.80>] [0.5 rgb <0.22,0.38,0.66>] [1 rgb <0.10,0.22,0.48>] } }
  pigment { wrinkles turbulence 0.75 octaves 7 omega 0.56 scale <0.42,0.12,0.42> translate <3.1,0.4,0.7> colour_map { [0 rgbt <1,1,1,1>] [0.50 rgbt <1,1,1,1>] [0.68 rgbt <1.02,0.98,0.93,0.40>] [1 rgbt <1.10,1.05,1.0,0.08>] } }
}
fog { fog_type 2 distance 9000 fog_offset 250 fog_alt 260 colour rgb <0.62,0.68,0.77> }
camera { spherical location Eye look_at Eye + z angle 176 84 }
