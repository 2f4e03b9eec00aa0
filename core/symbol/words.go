package symbol

import (
	"strings"
	"unicode"

	"gyrolith/core/nav"
)

// said are everyday words and phrases, without spaces, for what the symbols show.
var said = map[string]string{
	"mark": "waypoint,point,dot,pin,pushpin,marker,placemark,spot,place,location,position,generic,default,circle,square," +
		"diamond,star,cross,target",
	"flag": "flagged,banner,pennant", "start": "begin,beginning,startpoint,startingpoint,departure",
	"finish": "end,endpoint,arrival,destination,goal,finishline,checkeredflag,chequeredflag",
	"hazard": "danger,dangerous,caution,warning,alert,skull,attention,dangerarea,hazardarea",
	"closed": "closure,noentry,forbidden,prohibited,restricted,restrictedarea,noaccess,donotenter,keepout," +
		"exclusionzone",
	"question":      "unknown,query,questionmark,tobechecked,unverified,uncertain",
	"meeting-point": "meeting,meetingplace,rendezvous,rendezvouspoint,assemblypoint,musterpoint,muster",
	"first-aid": "hospital,medical,clinic,doctor,ambulance,firstaidpost,firstaidstation," +
		"redcross",
	"fuel": "petrol,petrolstation,gas,gasstation,fillingstation,fuelstation,servicestation,diesel,fueldock,fuelpump",
	"water": "drinkingwater,potablewater,watersource,waterpoint,watertap,tap,drinkingfountain,fountain," +
		"freshwater",
	"depot":  "cache,supplies,supplydepot,fooddepot,foodcache,storage,stash",
	"camera": "photo,picture,photograph,photopoint,image,phototaken",

	"summit":      "peak,mountain,mountaintop,mountainpeak,hill,hilltop,top,crest,highpoint",
	"saddle":      "pass,mountainpass,col,notch",
	"cairn":       "stonepile,stoneman,rockpile",
	"survey-mark": "trig,trigpoint,trigpillar,triangulationpoint,triangulationstation,benchmark,surveypoint,controlpoint",
	"plot":        "transect,quadrat,surveyplot,studyplot,sampleplot",
	"sample":      "samplingpoint,samplesite,specimen,soilsample",
	"nest":        "colony,rookery,nestingsite,breedingsite,bird,birdnest,burrow,roost",
	"hut": "house,cabin,lodge,home,building,residence,mountainhut,farm,barn,cottage,shed,chalet,alpinehut," +
		"lodging,hostel,hotel",
	"shelter": "refuge,bothy,leanto,emergencyshelter,bivouacshelter,hide,blind",
	"camp": "campground,campsite,campingground,camping,tent,tentsite,bivouac,bivvy,campfire," +
		"caravansite,caravanpark,holidaypark",
	"spring": "well,source,waterhole,hotspring,borehole", "lake": "tarn,pond,reservoir,lagoon,loch,pool",
	"waterfall": "falls,cascade,cataract", "ford": "rivercrossing,streamcrossing,steppingstones,wade",
	"bridge": "footbridge,viaduct,suspensionbridge,boardwalk", "gate": "stile,turnstile,cattlegrid,barrier,kissinggate",
	"junction": "crossroad,crossroads,intersection,signpost,fork,trackjunction,trailjunction,roadjunction,turnoff," +
		"guidepost",
	"trailhead": "trail,hiker,hiking,hikingtrail,path,footpath,trailstart,walking,walkingtrack",
	"parking":   "carpark,parkinglot,parkingarea,parkingspace,parkingplace,car,layby",
	"viewpoint": "view,scenicview,scenicoverlook,lookout,lookoutpoint,overlook,vista,binoculars,panorama," +
		"scenic,observationpoint",
	"cave": "cavern,grotto,sinkhole,pothole",

	"rock":       "rocks,reef,boulder,stone,skerry,submergedrock,underwaterrock,ledge",
	"rock-awash": "awash,rockawash,dryingrock,rockcoversanduncovers", "wreck": "shipwreck,sunkenship,hulk,dangerouswreck",
	"shoal":     "shallow,shallows,shallowwater,sandbank,sandbar,mudflat",
	"overfalls": "tiderace,tidalrace,rapids,rip,whirlpool,eddy,whitewater,tiderips",
	"kelp":      "weed,seaweed,seagrass,eelgrass", "sounding": "depth,depthsounding,spotdepth,waterdepth",
	"anchorage": "anchor,anchored,anchoringplace,anchorageprohibited,anchorberth,roadstead,roads",
	"mooring":   "mooringbuoy,visitormooring,bollard,berth,mooringfield,dolphin,moorings",
	"landing":   "beach,landingplace,landingbeach,putin,takeout,ashore,canoelaunch,kayaklaunch,landingstage",
	"jetty":     "pier,quay,wharf,dock,pontoon,landingpier,breakwater",
	"slipway":   "ramp,boatramp,boatlaunch,slip,launchramp",
	"harbour":   "harbor,marina,port,boatharbour,yachtharbour,haven,ferry,ferryterminal,boatyard",
	"buoy": "navigationbuoy,lateralbuoy,cardinalbuoy,channelbuoy,racingbuoy,racingmark,safewaterbuoy," +
		"isolateddangerbuoy,specialbuoy,float",
	"beacon": "daymark,daybeacon,leadingmark,rangemark,perch,withy,dayboard",
	"light":  "lighthouse,lightvessel,lightship,navigationlight,leadinglight,lighttower,lightbeacon",
	"fishing": "fish,fishinggear,fishingarea,fishingground,fishingspot,fishtrap,lobsterpot,crabpot,pots," +
		"net,nets,fishfarm",
	"diving": "dive,divesite,divespot,diver,divearea,snorkel,snorkelling,snorkeling,scuba",

	"airfield":      "airport,aerodrome,airbase,plane,aeroplane,airplane,aircraft",
	"airstrip":      "strip,landingstrip,runway,grassstrip",
	"helipad":       "heliport,helicopter,helicopterpad,helicopterlanding,helicopterlandingarea,landingzone",
	"water-landing": "seaplane,seaplanebase,floatplane,waterlandingarea,waterrunway,waterdrome",
	"reporting-point": "fix,intersectionfix,compulsoryreportingpoint,vfrpoint,vrp,visualreportingpoint,turnpoint," +
		"turningpoint",
	"radio-beacon": "vor,ndb,dme,vortac,vordme,radiobeacon,nondirectionalbeacon",
	"obstacle":     "obstruction,tower,chimney,silo,watertower",
	"mast":         "antenna,aerial,radiomast,radiotower,celltower,transmitter,communicationtower,pylon",
	"cable":        "wire,powerline,powercable,transmissionline,cablecar,ropeway,zipline,overheadcable,overheadline",
	"wind-turbine": "turbine,windmill,windfarm,windgenerator",
	"drop-zone":    "dropzone,parachute,parachutearea,skydiving,jumpzone,airdrop",
}

// qualifiers say of a symbol how it is drawn, and not what it shows.
var qualifiers = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq("small medium large big tiny dark bright pale solid hollow filled outline icon " +
		"symbol") {
		out[w] = true
	}
	return out
}()

var byPhrase = func() map[string]string {
	m := map[string]string{}
	for word, list := range said {
		for w := range strings.SplitSeq(list, ",") {
			m[w] = word
		}
	}
	for _, s := range All {
		m[strings.ReplaceAll(s.Word, "-", "")] = s.Word
	}
	return m
}()

// Meaning gives the neutral word for what somebody calls a symbol: one of the words itself, or an everyday one for the
// same, in any case, with or without its colour: "Campground", "car park", "Flag, Blue". It is "" where nobody can
// tell.
func Meaning(text string) string {
	words := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) })
	if w := phrase(strings.Join(words, "")); w != "" {
		return w
	}
	bare := words[:0]
	for _, w := range words {
		if _, colour := nav.ParseColour(w); !colour && !qualifiers[w] {
			bare = append(bare, w)
		}
	}
	return phrase(strings.Join(bare, ""))
}

func phrase(text string) string {
	if w := byPhrase[text]; w != "" {
		return w
	}
	return byPhrase[strings.TrimSuffix(text, "s")]
}
