"""Made-up subjects of measurement and field work: what their columns are called, and what stands in them.

A line is a column: its names, separated by semicolons; its kind; its unit. The names of a line mean the same; two lines
never do, however alike they read. The kinds: `n mean sd decimals`, `l median spread decimals` (skewed), `i least most`,
`c words` (categories), `k PATTERN` (codes; 9 and A vary), `day`, `moment`, `clock`, `words`, `yes`.
"""

COMMON = """
site; station; site name; location; sampling site; stn; place | c north shore,south shore,inlet,outlet,deep point,weir |
site id; site code; station no; stn id; site no; station code | k AA99 |
date; sampling date; sample date; date sampled; collected on; day; date of sampling | day |
time; sampling time; time of day; clock time; time sampled | clock |
sample; sample id; sample no; sample number; smp id; lab number; specimen id | k A9999-9 |
observer; recorder; observed by; obs; field staff; surveyor | c team a,team b,team c,team d |
remarks; comments; notes; comment; remark; field notes | words |
latitude; lat; lat dd; latitude dd; y coord | n 54.2 0.3 5 | °
longitude; lon; long; lng; longitude dd; x coord | n 10.8 0.4 5 | °
quality flag; flag; qc flag; qc; quality code; data quality | c good,doubtful,bad |
replicate; rep; replicate no; repl; rep number | i 1 4 |
checked; verified; validated; is checked; qa done | yes |
altitude; elevation; elev; height above sea level; alt | n 340 120 0 | m
"""

TUNED = {
    "lake loggers": """
date time; timestamp; datetime; logged at; measured at; recorded at | moment |
water temperature; water temp; temp water; t water; wtemp; temperature of water; wt | n 14 5 2 | °C
air temperature; air temp; t air; temp air; atemp; ambient temperature | n 16 7 1 | °C
dissolved oxygen; oxygen; do; o2; diss oxygen; oxygen concentration; do conc | n 9.4 1.8 2 | mg/L
oxygen saturation; do sat; o2 saturation; saturation; do percent; oxygen sat | n 92 14 1 | %
conductivity; specific conductance; cond; ec; electrical conductivity; sp cond | n 340 60 0 | µS/cm
turbidity; turb; ntu reading; turbidity reading | l 4 0.7 1 | NTU
ph; ph value; acidity; ph reading | n 7.8 0.4 2 |
chlorophyll a; chl a; chla; chlorophyll; chl; chlorophyll conc | l 6 0.6 2 | µg/L
depth; water depth; sensor depth; z; depth of sensor; meas depth | n 3.2 0.8 2 | m
secchi depth; secchi; transparency; visibility; secchi disk depth; water clarity | n 3.4 1.1 1 | m
battery; battery voltage; batt; vbat; battery v; supply voltage | n 3.5 0.1 2 | V
light; par; light intensity; irradiance; photosynthetic radiation | l 220 0.9 0 |
serial number; serial; serial no; logger id; sensor serial; device | k 99999 |
phycocyanin; phyco; pc fluorescence; blue green algae; bga | l 2 0.8 2 |
bottom temperature; temp bottom; t bottom; bottom temp; deep temperature | n 8 3 2 | °C
maximum depth; max depth; depth max; zmax; greatest depth | n 5 1.2 2 | m
mean light; light mean; avg light; average light; light avg | l 200 0.7 0 |
water level; level; stage; wl; lake level; water stage | n 1.4 0.25 2 | m
""",
    "soil plots": """
plot; plot id; plot no; plot number; plot code | k P99 |
horizon; soil horizon; layer; hor; soil layer | c A,B,C,O |
upper depth; depth from; top; depth top; from cm; upper limit | i 0 60 | cm
lower depth; depth to; bottom; depth bottom; to cm; lower limit | i 10 90 | cm
soil moisture; moisture; water content; vwc; soil water; moist | n 24 8 1 | %
soil temperature; soil temp; temp soil; t soil; ground temperature | n 12 5 1 | °C
bulk density; bd; density; dry bulk density; dbd | n 1.3 0.2 2 | g/cm3
organic carbon; soc; corg; organic c; toc; org carbon | n 2.4 1.1 2 | %
total nitrogen; n total; ntot; tn; nitrogen; total n | n 0.21 0.08 3 | %
sand; sand content; sand share; pct sand; sand fraction | n 42 15 0 | %
clay; clay content; clay share; pct clay; clay fraction | n 22 9 0 | %
silt; silt content; silt share; pct silt; silt fraction | n 36 11 0 | %
soil ph; ph; ph cacl2; ph soil; ph in solution | n 5.9 0.7 1 |
phosphorus; available p; p avail; olsen p; plant available phosphorus | l 24 0.5 1 | mg/kg
potassium; k; exchangeable k; k avail; available potassium | l 130 0.4 0 | mg/kg
treatment; trt; treat; variant; treatment code | c control,lime,compost,mulch |
texture; texture class; soil texture; tex | c loam,sandy loam,silt loam,clay |
stones; stone content; gravel; coarse fragments; skeleton | n 12 8 0 | %
infiltration; infiltration rate; infil; inf rate | l 30 0.6 1 | mm/h
""",
    "weather stations": """
date time; timestamp; datetime; observation time; obs time | moment |
air temperature; temp; temperature; t2m; air temp; ta | n 11 8 1 | °C
minimum temperature; temp min; tmin; min temp; t min; lowest temperature | n 6 7 1 | °C
maximum temperature; temp max; tmax; max temp; t max; highest temperature | n 16 8 1 | °C
dew point; dewpoint; dew pt; td; dew point temperature | n 5 6 1 | °C
relative humidity; humidity; rh; rel humidity; hum; moisture of air | n 74 14 0 | %
precipitation; rain; rainfall; precip; prcp; rain amount | l 2 1.2 1 | mm
wind speed; wind; ws; wspd; wind velocity; mean wind | l 3.2 0.5 1 | m/s
wind gust; gust; gust speed; max wind; wgust; peak wind | l 7 0.5 1 | m/s
wind direction; wind dir; wd; wdir; direction of wind | i 0 359 | °
air pressure; pressure; baro; barometric pressure; pres; station pressure | n 1013 9 1 | hPa
solar radiation; global radiation; radiation; rad; sr; shortwave radiation | l 180 0.9 0 | W/m2
sunshine duration; sunshine; sun hours; sun dur; sunshine hours | n 5 3 1 | h
snow depth; snow; snow height; sd; depth of snow | l 12 0.9 0 | cm
cloud cover; clouds; cloudiness; cc; okta; cloud amount | i 0 8 |
visibility; vis; visual range; horizontal visibility | l 18 0.5 0 | km
evaporation; evap; pan evaporation; epan; et | l 2.8 0.4 1 | mm
grass minimum; grass min; ground minimum; tgrass; grass temp | n 3 6 1 | °C
mean temperature; temp mean; tmean; avg temp; mean temp; average temperature | n 11 7 1 | °C
maximum gust; gust max; max gust; highest gust; wgust max | l 9 0.5 1 | m/s
total radiation; radiation total; sum radiation; rad sum; radiation sum | l 900 0.7 0 | W/m2
""",
    "forest inventory": """
plot; plot id; plot number; plot no | k 99-9 |
tree; tree id; tree no; tree number; stem id; tree tag | i 1 400 |
species; tree species; sp; taxon; species name; spec | c beech,oak,spruce,pine,larch,ash |
species code; sp code; spp; spcode; taxon code | c FASY,QURO,PIAB,PISY,LADE,FREX |
diameter; dbh; diameter at breast height; diam; d130; breast height diameter | n 28 11 1 | cm
height; tree height; h; total height; ht; hgt | n 18 6 1 | m
mean height; height mean; stand height; avg height; average height | n 17 4 1 | m
crown base; crown base height; height to crown; cbh; live crown base | n 7 3 1 | m
crown width; crown diameter; crown diam; cw; crown spread | n 5 1.8 1 | m
age; tree age; stand age; years; age class | i 15 160 |
status; condition; vitality; tree status; health | c alive,dying,dead |
damage; damage type; damage code; dmg; injury | c none,bark,browse,wind,fungus |
damage share; damage percent; pct damage; share damaged; extent of damage | i 0 90 | %
azimuth; bearing; azi; direction; az | i 0 359 | °
distance; dist; distance to centre; dist centre; radius | n 7 3 2 | m
slope; slope percent; inclination; incl; gradient | i 0 60 | %
aspect; exposition; exposure; slope aspect; expo | c N,NE,E,SE,S,SW,W,NW |
volume; stem volume; vol; timber volume; v | l 0.6 0.8 3 | m3
basal area; ba; basal a; cross section; stem basal area | l 0.06 0.6 4 | m2
deadwood; dead wood; dw; lying dead wood; dead wood volume | l 8 0.9 1 |
""",
    "bird counts": """
transect; transect id; route; line; trans; transect no | k T9 |
species; bird; species name; taxon; sp; bird species | c siskin,dunnock,wren,dipper,plover,teal,snipe |
number; count; individuals; n birds; ind; number of birds; no of individuals | i 1 60 |
start time; begin; time start; start; begin time; t start | clock |
end time; end; time end; finish; finish time; t end | clock |
duration; minutes; dur; survey duration; time spent; length of survey | i 10 90 | min
distance; dist; distance to observer; distance class; dist m | i 5 200 | m
behaviour; behavior; activity; behav; what it did | c singing,feeding,flying,resting |
sex; gender; sx; m or f | c m,f,u |
age class; age; agecl; age group; stage | c adult,juvenile,unknown |
nests; nest count; number of nests; n nests; active nests | i 0 12 |
total count; total; n total; all birds; sum of birds | i 1 90 |
eggs; clutch size; egg count; number of eggs; clutch | i 0 6 |
chicks; young; number of young; fledglings; broods | i 0 6 |
habitat; habitat type; hab; biotope; habitat class | c reed,meadow,wood,open water |
wind; wind force; beaufort; wind bft; wind strength | i 0 6 |
cloud; cloud cover; clouds; cloudiness; cloud okta | i 0 8 |
ring; ring number; ring no; band; band number; ring code | k AA99999 |
wing length; wing; wing chord; wl; wing mm | n 74 12 1 | mm
body mass; weight; mass; bird weight; wt | n 21 6 1 | g
tarsus; tarsus length; tars; tarsus mm; leg length | n 19 3 1 | mm
""",
    "groundwater wells": """
well; well id; borehole; bore; well no; well name | k W-999 |
water table; depth to water; dtw; groundwater level; gw level; depth to groundwater | n 6.4 2.1 2 | m
well depth; total depth; depth of well; bore depth; drilled depth | n 32 11 1 | m
nitrate; no3; nitrate conc; nitrate concentration; no3 conc | l 12 0.7 2 | mg/L
nitrite; no2; nitrite conc; nitrite concentration; no2 conc | l 0.03 0.6 3 | mg/L
ammonium; nh4; ammonia; ammonium conc; nh4 conc | l 0.08 0.8 3 | mg/L
chloride; cl; chlorides; cl conc; chloride conc | l 28 0.5 1 | mg/L
sulphate; sulfate; so4; sulphates; so4 conc | l 46 0.5 1 | mg/L
calcium; ca; calcium conc; ca conc; dissolved calcium | n 88 22 1 | mg/L
magnesium; mg; magnesium conc; mg conc; dissolved magnesium | n 14 5 1 | mg/L
sodium; na; sodium conc; na conc; dissolved sodium | l 17 0.5 1 | mg/L
iron; fe; total iron; iron conc; fe total | l 0.3 1 3 | mg/L
dissolved iron; iron dissolved; fe diss; fe dissolved; diss iron | l 0.2 1 3 | mg/L
minimum temperature; min temp; temp min; tmin; lowest temperature | n 9 1 1 | °C
manganese; mn; mn conc; manganese conc; mn total | l 0.06 1 3 | mg/L
hardness; total hardness; water hardness; th; hardness total | n 15 4 1 |
conductivity; ec; cond; electrical conductivity; el cond | n 620 130 0 | µS/cm
ph; ph value; ph field; field ph; ph measured | n 7.2 0.3 2 |
temperature; temp; water temperature; t; groundwater temperature | n 10.4 0.8 1 | °C
pump rate; pumping rate; discharge; abstraction; q pump | l 2.2 0.6 1 | L/s
aquifer; aquifer name; aq; geology; formation | c upper,lower,karst,gravel |
""",
    "air quality": """
date time; timestamp; datetime; hour; measured at | moment |
nitrogen dioxide; no2; no2 conc; nitrogen dioxide conc | l 22 0.5 1 | µg/m3
nitric oxide; no; nitrogen monoxide; no conc | l 9 0.8 1 | µg/m3
ozone; o3; o3 conc; ozone conc; surface ozone | n 58 20 1 | µg/m3
pm10; particles pm10; pm 10; coarse dust; fine dust pm10 | l 21 0.5 1 | µg/m3
pm2.5; pm25; fine particles; pm 2.5; fine dust pm2.5 | l 11 0.5 1 | µg/m3
sulphur dioxide; so2; so2 conc; sulfur dioxide | l 2.6 0.6 1 | µg/m3
carbon monoxide; co; co conc; carbon monoxide conc | l 0.3 0.5 2 | mg/m3
carbon dioxide; co2; co2 conc; carbon dioxide conc; co2 ppm | n 428 18 0 | ppm
black carbon; bc; soot; ebc; elemental carbon | l 0.9 0.7 2 | µg/m3
benzene; c6h6; benzene conc; benzol | l 0.6 0.6 2 | µg/m3
ammonia; nh3; nh3 conc; ammonia conc | l 4 0.5 1 | µg/m3
wind speed; ws; wind; wspd; wind velocity | l 2.8 0.5 1 | m/s
wind direction; wd; wind dir; wdir | i 0 359 | °
temperature; temp; air temperature; t; outside temperature | n 12 8 1 | °C
humidity; rh; relative humidity; rel hum; hum | n 72 15 0 | %
flow; sample flow; flow rate; inlet flow; sampler flow | n 16.7 0.3 2 |
filter; filter id; filter no; filter number; filter code | k F99999 |
particle number; pn; number concentration; cpc count; particle count | l 9000 0.6 0 |
""",
    "fish survey": """
catch id; haul; haul no; catch no; net haul | i 1 90 |
species; fish; fish species; taxon; species name; sp | c perch,roach,pike,bream,ruffe,eel,tench |
total length; length; tl; fish length; len; length total | n 182 60 0 | mm
mean length; avg length; length mean; average length; mean len | n 170 40 0 | mm
maximum length; max length; length max; longest; lmax | n 240 60 0 | mm
fork length; fl; length fork; fork len; fork l | n 170 56 0 | mm
standard length; sl; length standard; std length | n 155 52 0 | mm
weight; mass; fish weight; wt; total weight; body mass | l 120 0.8 0 | g
sex; gender; sx; sex of fish | c m,f,u |
maturity; maturity stage; stage; gonad stage; mat | i 1 7 |
age; fish age; age years; age read; winters | i 0 12 |
gear; gear type; method; net type; fishing gear | c gill net,fyke,electro,seine |
mesh; mesh size; mesh width; mesh mm; net mesh | i 10 70 | mm
depth; fishing depth; net depth; set depth; depth of net | n 6 3 1 | m
effort; soak time; fishing time; hours fished; effort hours | n 9 3 1 | h
net area; net surface; area fished; net size; m2 net | i 20 120 | m2
catch; number caught; n caught; abundance; total catch; count | i 0 200 |
biomass; catch weight; total biomass; catch mass; kg caught | l 4 0.9 2 | kg
parasites; parasite load; number of parasites; n parasites; paras | i 0 30 |
tag; tag number; tag no; pit tag; mark | k 99A9999 |
stomach; stomach fullness; fullness; stomach content; gut fullness | i 0 5 |
released; returned; put back; released alive; set free | yes |
""",
}

UNSEEN = {
    "river gauging": """
gauge; gauge id; gauging station; gauge name; gauge no | k G-99 |
discharge; flow; q; streamflow; river flow; runoff | l 14 0.8 2 | m3/s
stage; water level; gauge height; level; w; stage height | n 1.9 0.6 2 | m
velocity; mean velocity; flow velocity; v mean; current speed | n 0.8 0.3 2 | m/s
maximum velocity; v max; max velocity; peak velocity; vmax | n 1.3 0.4 2 | m/s
width; river width; channel width; w surf; top width; wetted width | n 12 5 1 | m
mean depth; depth; average depth; d mean; avg depth | n 0.9 0.3 2 | m
cross section; area; wetted area; xs area; flow area | n 10 4 1 | m2
suspended sediment; ssc; sediment concentration; susp solids; tss | l 30 0.9 1 | mg/L
bed load; bedload; bl; bedload rate; bed load transport | l 0.4 1 3 |
water temperature; water temp; wtemp; temp; t water | n 9 5 1 | °C
ice; ice cover; ice state; ice condition; ice code | c none,edge,full |
rating; rating curve; rating no; curve; rating id | i 1 14 |
instrument; device; meter; current meter; instr; propeller | c adcp,flow meter,float |
verticals; number of verticals; n vert; no of verticals; vert | i 5 25 |
uncertainty; error; unc; measurement error; pct error | n 5 2 1 | %
hydraulic radius; hyd radius; rh; r hyd | n 0.7 0.2 2 | m
slope; water slope; surface slope; gradient; incl | l 0.002 0.5 4 |
""",
    "snow pits": """
pit; pit id; pit no; snow pit; profile id | k S99 |
snow depth; hs; snow height; total depth; depth of snow | n 140 50 0 | cm
new snow; hn; fresh snow; new snow depth; snowfall 24h | l 9 0.9 0 | cm
snow temperature; snow temp; ts; temp snow; t snow | n -4 2.5 1 | °C
surface temperature; surface temp; tss; surf temp; t surface | n -6 4 1 | °C
air temperature; air temp; ta; t air; temp air | n -5 5 1 | °C
density; snow density; rho; dens; bulk density | n 290 80 0 | kg/m3
water equivalent; swe; snow water equivalent; water eq; snow water | n 400 160 0 | mm
grain type; grain form; grain shape; crystal type; grain | c rounded,faceted,crust,melt |
grain size; crystal size; grain diameter; size mm; gs | n 1.1 0.5 1 | mm
hardness; hand hardness; hardness index; hard; snow hardness | i 1 5 |
wetness; liquid water; wetness index; lwc; moisture | i 1 5 |
layer top; top; upper boundary; layer upper; from | n 90 30 0 | cm
layer bottom; bottom; lower boundary; layer lower; to | n 60 30 0 | cm
slope angle; slope; inclination; steepness; slope deg | i 0 45 | °
aspect; exposure; exposition; slope aspect; facing | c N,NE,E,SE,S,SW,W,NW |
stability; stability test; test result; ct score; compression test | i 1 30 |
albedo; reflectance; alb; surface albedo; shortwave albedo | n 0.8 0.08 2 |
wind load; wind loading; drift; drifting snow; snow drift | yes |
""",
    "plant phenology": """
individual; plant id; plant; individual id; tag no; plant no | i 1 80 |
species; plant species; taxon; species name; sp | c ash,hazel,birch,lily,iris,sedge |
leaf out; budburst; bud break; first leaf; leaf unfolding | day |
flowering; first flower; flower onset; begin of flowering; bloom start | day |
end of flowering; last flower; flower end; bloom end; flowering end | day |
fruiting; fruit ripe; first ripe fruit; fruit ripening; ripe fruit | day |
leaf fall; leaf drop; leaf shed; end of leaves; defoliation | day |
stage; phenophase; bbch; phenological stage; phase code | i 0 97 |
height; plant height; ht; height of plant; shoot height | n 64 30 0 | cm
leaves; number of leaves; leaf count; n leaves; leaf number | i 2 80 |
flowers; number of flowers; flower count; n flowers; open flowers | i 0 120 |
cover; plant cover; cover percent; pct cover; ground cover | i 1 100 | %
leaf area; la; leaf area mean; mean leaf area; lamina area | l 18 0.6 1 | cm2
leaf length; lamina length; leaf len; length of leaf; ll | n 7 2 1 | cm
chlorophyll index; spad; chl index; greenness; spad value | n 38 7 1 |
herbivory; leaf damage; eaten; grazing damage; pct eaten | i 0 80 | %
shade; shading; canopy cover; canopy; shade percent | i 0 100 | %
dry weight; dry mass; dw; biomass dry; dry matter | l 4 0.8 2 | g
fresh weight; fresh mass; fw; wet weight; biomass fresh | l 18 0.8 2 | g
""",
    "insect traps": """
trap; trap id; trap no; trap number; trap code | k L99 |
trap type; method; kind of trap; type of trap; trapping method | c pitfall,malaise,light,pan |
order; insect order; ord; taxon order; order name | c beetles,flies,moths,bees,bugs |
family; fam; insect family; family name; taxon family | c ground,rove,hover,owlet,mining |
abundance; count; individuals; number of individuals; n ind; specimens | l 14 1 0 |
richness; species number; number of species; n species; taxa | i 1 40 |
males; number of males; n males; male count; m count | i 0 40 |
females; number of females; n females; female count; f count | i 0 40 |
set date; trap set; date set; opened on; start date | day |
collection date; emptied on; date emptied; end date; date collected | day |
days; trap days; exposure; exposure days; days open | i 5 21 | d
bait; attractant; lure; bait type; kind of bait | c none,sugar,light,dung |
trap height; height; height above ground; mounted at; trap ht | n 1.4 0.5 1 | m
body length; length; body size; size; len mm | l 8 0.4 1 | mm
dry mass; biomass; dry weight; dm; biomass dry | l 1.4 1 3 | g
vegetation height; veg height; sward height; plant height; veg ht | n 32 15 0 | cm
land use; landuse; use; type of use; management | c meadow,crop,fallow,wood |
distance to edge; edge distance; dist edge; distance edge; to edge | l 40 0.8 0 | m
moon; moon phase; lunar phase; moon illumination; moon pct | i 0 100 | %
""",
    "sediment cores": """
core; core id; core no; core name; core code | k C9-99 |
section; segment; core section; sect; core segment | i 1 8 |
depth; sediment depth; depth in core; core depth; depth below surface | n 42 25 1 | cm
age; calibrated age; cal age; age bp; modelled age | l 1800 0.7 0 |
age error; error; age uncertainty; sd age; age sd; plus minus | l 45 0.5 0 |
water content; moisture; wc; water share; wet fraction | n 72 9 1 | %
loss on ignition; loi; organic matter; loi550; ignition loss | n 18 7 1 | %
carbonate; caco3; carbonate content; loi950; lime | n 22 12 1 | %
dry density; dbd; dry bulk density; density dry; rho dry | n 0.4 0.15 3 | g/cm3
magnetic susceptibility; ms; mag sus; kappa; susceptibility | l 40 0.9 1 |
total carbon; tc; c total; carbon; total c | n 9 3 2 | %
total nitrogen; tn; n total; nitrogen; total n | n 0.8 0.3 2 | %
carbon nitrogen ratio; cn; c n ratio; cn ratio; c to n | n 12 2.5 1 |
lead; pb; lead conc; pb conc; lead content | l 35 0.7 1 | mg/kg
zinc; zn; zinc conc; zn conc; zinc content | l 110 0.5 1 | mg/kg
copper; cu; copper conc; cu conc; copper content | l 24 0.5 1 | mg/kg
lead 210; pb210; 210pb; pb 210 activity; lead210 | l 160 0.8 0 | Bq/kg
caesium 137; cs137; 137cs; cs 137 activity; cesium 137 | l 22 1 1 | Bq/kg
diatoms; diatom count; number of diatoms; valves; n diatoms | i 50 600 |
grain size; median grain size; d50; mean grain; particle size | l 24 0.6 1 | µm
colour; munsell; color; sediment colour; munsell code | c 10YR,5Y,2.5Y,N |
""",
    "tidal marsh": """
quadrat; quadrat id; quad; quad no; plot | k Q99 |
salinity; sal; salt content; salinity psu; water salinity | n 24 6 1 | psu
pore salinity; porewater salinity; pore water sal; pw salinity; sal pore | n 29 7 1 | psu
tide; tide height; tidal level; water height; tide level | n 1.1 0.7 2 | m
inundation; flooding; inundation time; flood time; hours flooded | n 210 80 0 | h
elevation; surface elevation; elev; ground height; height | n 1.8 0.4 2 | m
accretion; accretion rate; sediment gain; vertical growth; accr | n 3.2 1.4 1 | mm
stem density; stems; number of stems; stem count; shoots | i 20 900 |
stem height; shoot height; canopy height; plant height; ht | n 72 22 0 | cm
above ground biomass; agb; aboveground; above biomass; shoot biomass | l 620 0.5 0 | g/m2
below ground biomass; bgb; belowground; below biomass; root biomass | l 1400 0.5 0 | g/m2
redox; redox potential; eh; orp; redox mv | n -40 110 0 | mV
sulfide; h2s; sulphide; sulfide conc; hydrogen sulfide | l 0.6 1 2 |
crabs; crab burrows; number of burrows; burrows; crab count | i 0 40 |
snails; snail count; number of snails; n snails; gastropods | i 0 90 |
zone; marsh zone; zone name; vegetation zone; belt | c low,mid,high,creek |
bare ground; bare; bare soil; pct bare; unvegetated | i 0 100 | %
water temperature; water temp; temp; wtemp; t water | n 15 5 1 | °C
shear strength; shear; soil strength; vane test; shear kpa | l 14 0.5 1 | kPa
""",
    "greenhouse trial": """
pot; pot id; pot no; pot number; container | i 1 240 |
cultivar; variety; cv; genotype; line; cultivar name | c aster,bora,cedro,dalia,elva |
treatment; trt; treat; variant; group | c dry,wet,salt,control |
block; blk; bench; block no; table | i 1 6 |
sown; sowing date; date sown; planting date; sown on | day |
harvested; harvest date; date harvested; harvest; harvested on | day |
plant height; height; ht; height of plant; shoot height | n 48 15 1 | cm
stem diameter; stem diam; stem thickness; sd; basal diameter | n 6 1.5 1 | mm
shoot mass; shoot dry mass; shoot weight; sdm; shoot dw | l 8 0.5 2 | g
root mass; root dry mass; root weight; rdm; root dw | l 3 0.5 2 | g
yield; grain yield; fruit weight; yld; yield per plant | l 34 0.5 1 | g
fruits; number of fruits; fruit count; n fruits; fruit no | i 0 30 |
photosynthesis; photosynthetic rate; assimilation; a net; pn | n 14 4 1 |
stomatal conductance; gs; conductance; g stomata; stom cond | l 0.2 0.5 3 |
substrate moisture; moisture; soil moisture; vwc; water content | n 34 9 1 | %
irrigation; water given; watering; irrigation amount; ml water | i 0 500 | mL
day temperature; t day; temp day; daytime temperature; tday | n 24 2 1 | °C
night temperature; t night; temp night; night temp; tnight | n 17 2 1 | °C
pests; pest score; aphids; pest rating; infestation | i 0 5 |
disease; disease score; disease rating; infection; mildew score | i 0 9 |
""",
    "study visits": """
participant; participant id; subject; subject id; person no; pid | k AA-999 |
visit; visit no; visit number; session; wave; visit id | i 1 6 |
age; age years; age at visit; participant age; years of age | i 18 84 |
sex; gender; sx; m f | c m,f |
group; arm; study group; condition; study arm | c a,b,waiting |
height; body height; stature; ht; height cm | n 171 9 0 | cm
weight; body weight; mass; wt; body mass | n 74 13 1 | kg
waist; waist circumference; waist girth; waist cm; wc | n 88 12 0 | cm
hip; hip circumference; hip girth; hip cm; hips | n 101 10 0 | cm
systolic pressure; systolic; sbp; bp sys; systolic bp | n 126 14 0 | mmHg
diastolic pressure; diastolic; dbp; bp dia; diastolic bp | n 79 9 0 | mmHg
heart rate; pulse; hr; pulse rate; beats per minute | n 70 10 0 |
reaction time; rt; mean rt; response time; reaction ms | n 340 60 0 | ms
score; total score; sum score; test score; points | i 0 60 |
sleep; sleep hours; hours of sleep; sleep duration; slept | n 7 1.1 1 | h
mood; mood rating; mood score; how do you feel; wellbeing | i 1 7 |
education; years of education; schooling; edu years; school years | i 8 20 |
handedness; hand; dominant hand; handed; writing hand | c left,right |
medication; medicines; takes medication; any medication; drugs | yes |
interviewer; examiner; tester; staff; examined by | c team a,team b,team c |
""",
}
