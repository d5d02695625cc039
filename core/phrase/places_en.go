package phrase

// places are towns and regions of English-speaking countries that people name when they look for something nearby: the
// states and provinces and the largest cities, from memory. Countries are not among them: a niche has one already.
var placesInEnglish = named(`
alabama, alaska, arizona, arkansas, california, colorado, connecticut, delaware, florida, hawaii, idaho, illinois,
indiana, iowa, kansas, kentucky, louisiana, maryland, massachusetts, michigan, minnesota, mississippi, missouri,
montana, nebraska, nevada, new hampshire, new jersey, new mexico, new york, north carolina, north dakota, ohio,
oklahoma, oregon, pennsylvania, rhode island, south carolina, south dakota, tennessee, texas, utah, vermont,
west virginia, wisconsin, wyoming, ontario, quebec, british columbia, alberta, manitoba, saskatchewan, nova scotia,
new brunswick, newfoundland, new south wales, queensland, tasmania, south australia, western australia, yorkshire,
lancashire, cornwall, devon, norfolk, suffolk, essex, kent, sussex, hampshire, dorset, cumbria, northumberland,
los angeles, chicago, houston, philadelphia, san antonio, san diego, dallas, san jose, austin, jacksonville, fort worth,
indianapolis, charlotte, san francisco, seattle, denver, oklahoma city, nashville, el paso, washington dc, boston,
las vegas, detroit, memphis, baltimore, milwaukee, albuquerque, tucson, fresno, sacramento, mesa arizona, atlanta,
kansas city, colorado springs, omaha, raleigh, miami, virginia beach, long beach, oakland, minneapolis, tulsa, tampa,
new orleans, wichita, cleveland, bakersfield, anaheim, honolulu, santa ana, corpus christi, riverside california,
st louis, saint louis, pittsburgh, cincinnati, greensboro, st paul, saint paul, newark, plano, orlando, buffalo ny,
chandler arizona, fort wayne, durham, madison wisconsin, lubbock, scottsdale, reno, norfolk virginia, baton rouge,
richmond virginia, boise, des moines, spokane, tacoma, rochester, salt lake city, knoxville, grand rapids, tallahassee,
chattanooga, fort lauderdale, brooklyn, manhattan, toronto, montreal, vancouver, calgary, edmonton, ottawa, winnipeg,
hamilton ontario, london, birmingham, leeds, glasgow, sheffield, manchester, edinburgh, liverpool, cardiff, belfast,
leicester, coventry, nottingham, newcastle, brighton, plymouth, southampton, portsmouth, bristol, norwich, aberdeen,
dublin, galway, limerick, sydney, melbourne, brisbane, perth, adelaide, canberra, hobart, gold coast, auckland,
wellington, christchurch, dunedin, cape town, johannesburg, durban
`)

// doubtful are places that say something else as often: they count behind a word such as in or near.
var doubtfulInEnglish = named(`
maine, virginia, georgia, washington, york, bath, reading, mobile, phoenix, buffalo, portland, richmond, columbus,
lincoln, aurora, jackson, madison, derby, hull, cork, kent, devon, essex, sussex, norfolk, suffolk, cornwall,
wellington, newcastle, bristol, plymouth, austin, charlotte, durham, london, perth, boston, dallas, montana, chester,
lancaster, wells, victoria, surrey, jersey, cambridge, oxford, stirling, sterling, salem, savannah, dover, hamilton
`)

// nearIn are the words behind which a place is one for sure.
var nearInEnglish = set("in near around outside")
