/** A readings file to begin with: every column that most people need, and rows that show what goes into them. */
export const READINGS_TEMPLATE = `system,machine,metric,value,unit,block,outcome,reason
Varrow 12 Tarnwick,Herbarium laptop,boot.total,17.4,s,1,done,
Quillfern 8 Tarnwick,Herbarium laptop,boot.total,21.0,s,1,done,
Varrow 12 Tarnwick,Herbarium laptop,memory.used,505,MiB,1,done,
Quillfern 8 Tarnwick,Herbarium laptop,boot.total,,s,2,failed,panicked: no init
`
